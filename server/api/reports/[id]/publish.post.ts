/** Makes the draft what readers run. */
export default route(async (event, app) => ({ published: await app.store.publish(getRouterParam(event, 'id')!) }))
