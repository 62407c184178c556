/** Makes the draft what readers run. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  const published = await app.store.publish(context, id)
  const report = await app.store.draft(context, id)
  await writeDown(context, event, app, 'report published', { report: report?.name, id, version: published })
  return { published }
})
