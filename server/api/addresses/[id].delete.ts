/** Takes a refresh address back: it answers no more. */
export default route(async (context, event, app) => {
  await app.store.addresses.revoke(context, partOf(event, 'id'))
  await writeDown(context, event, app, 'address taken back', { address: partOf(event, 'id') })
  return {}
})
