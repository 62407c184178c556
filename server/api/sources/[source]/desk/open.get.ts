/** Open documents of somebody, to be paid. */
export default route((context, event, app) => deskOf(event, app).open(context, askedOf(event)))
