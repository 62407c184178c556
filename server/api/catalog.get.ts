/** What the source holds; where it is away, as it was last read, with a sentence. */
export default route(async (event, app) => {
  const catalog = await app.catalog(getQuery(event).again === '1')
  return { ...catalog, problem: app.sourceProblem() }
})
