/** Open documents of somebody, to be paid. */
export default route(async (context, event, app) => (await deskOf(context, event, app)).open(context, askedOf(event)))
