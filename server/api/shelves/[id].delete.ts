/** Takes an empty shelf away. */
export default route(async (context, event, app) => {
  await app.store.shelving.removeShelf(context, partOf(event, 'id'))
  return { removed: true }
})
