/** Says anew who runs and who edits a report. */
export default route(async (context, event, app) => {
  const [id, said] = [partOf(event, 'id'), await bodyOf(event, 'audience')]
  await app.store.publishing.setAudience(context, id, said)
  const report = await app.store.draft(context, id)
  await writeDown(context, event, app, 'rights changed', { report: report?.name, id, ...said })
  await app.recheck()
  return {}
})
