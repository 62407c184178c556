/** Puts a report away; it can be brought back for some days. */
export default route(async (context, event, app) => {
  await app.store.shelving.putAway(context, partOf(event, 'id'))
  return { removed: true }
})
