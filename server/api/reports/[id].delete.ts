/** Puts a report away for good. */
export default route(async (context, event, app) => {
  await app.store.remove(context, partOf(event, 'id'))
  return { removed: true }
})
