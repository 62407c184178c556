/** Takes a refresh address back: it answers no more. */
export default route(async (event, app) => {
  await app.store.revokeAddress(getRouterParam(event, 'id')!)
  return {}
})
