/** Posts a document at the desk of a source. */
export default route(async (context, event, app) => ({ number: await deskOf(event, app).post(context, await bodyOf(event, 'desk')) }))
