/** Makes the draft what readers run. */
export default route(async (context, event, app) => ({ published: await app.store.publish(context, partOf(event, 'id')) }))
