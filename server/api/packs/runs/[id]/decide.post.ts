/** Lets a held run of a pack go, exactly as it was looked at, or drops it; with a reason. */
export default route(async (context, event, app) => {
  const { released, reason } = await bodyOf(event, 'decidePack')
  const run = await packRunOf(context, event, app)
  await app.packs.decide(context, run.id, released, reason)
  await writeDown(context, event, app, 'pack decided', { what: run.name, run: run.id, state: released ? 'released' : 'dropped', reason })
  return {}
})
