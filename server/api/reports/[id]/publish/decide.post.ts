/** A second person releases what waits, or refuses it. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  const { released } = await bodyOf(event, 'decide')
  const version = await app.store.publishing.decide(context, id, released)
  const report = await app.store.draft(context, id)
  await writeDown(context, event, app, released ? 'report released' : 'release refused', { report: report?.name, id, version })
  return released ? { published: version } : {}
})
