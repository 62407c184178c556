/** What the desk of a source offers, and what was posted there last. */
export default route(async (context, event, app) => (await deskOf(context, event, app)).offers(context))
