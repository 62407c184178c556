/** Puts a report away for good. */
export default route(async (event, app) => {
  await app.store.remove(getRouterParam(event, 'id')!)
  return { removed: true }
})
