/** Calls a shelf otherwise, or moves it up or down. */
export default route(async (context, event, app) => {
  await app.store.shelving.changeShelf(context, partOf(event, 'id'), await bodyOf(event, 'changeShelf'))
  return { changed: true }
})
