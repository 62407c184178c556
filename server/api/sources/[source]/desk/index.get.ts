/** What the desk of a source offers, and what was posted there last. */
export default route((context, event, app) => deskOf(event, app).offers(context))
