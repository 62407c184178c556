/** Puts a report away for good. */
export default route(async (context, event, app) => {
  await app.store.remove(context, getRouterParam(event, 'id')!)
  return { removed: true }
})
