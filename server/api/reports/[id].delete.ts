/** Puts a report away; it can be brought back for some days. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  const report = await app.store.draft(context, id)
  await app.store.shelving.putAway(context, id)
  await writeDown(context, event, app, 'report put away', { report: report?.name, id })
  return { removed: true }
})
