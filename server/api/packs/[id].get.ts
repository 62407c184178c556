/** A pack with its runs. */
export default route(async (context, event, app) => packInfo(context, app, await app.store.packs.find(context, partOf(event, 'id')), 50))
