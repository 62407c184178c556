/** Stops a run of a pack. */
export default route(async (context, event, app) => {
  const run = await packRunOf(context, event, app)
  await app.packs.cancel(context, run.id)
  await writeDown(context, event, app, 'pack decided', { what: run.name, run: run.id, state: 'cancelled' })
  return {}
})
