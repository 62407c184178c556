/** Takes out what is personal of one person; the chain stays whole. */
export default route(async (context, event, app) => ({ entries: await app.store.audit.takeOut(context, partOf(event, 'person')) }))
