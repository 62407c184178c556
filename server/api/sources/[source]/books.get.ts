/** Where the source keeps its books, as said or as found, and how they fare when checked against the data. */
export default route(async (context, event, app) => {
  const source = partOf(event, 'source')
  return booksOf(context, app, source, (await app.store.settings(context, app.sources.get(source).id)).value, true)
})
