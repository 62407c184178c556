/** All packs, each with when it is due next and its last run. */
export default route(async (context, _event, app) => {
  const packs = await app.store.packs.list(context)
  return Promise.all(packs.map(each => packInfo(context, app, each, 1)))
})
