/** What a source holds; where it is away, as it was last read, with a sentence. */
export default route(async (context, event, app) => {
  const source = partOf(event, 'source')
  const { catalog } = await app.sources.catalog(context, source, askedOf(event).again === '1')
  return { ...catalog, problem: app.sources.problem(source) }
})
