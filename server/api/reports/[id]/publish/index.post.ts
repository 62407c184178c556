/** Makes the draft what readers run; on a shelf that wants a second person, it waits for one. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  const outcome = await app.store.publishing.publish(context, id)
  const report = await app.store.draft(context, id)
  const waits = 'waiting' in outcome
  const version = waits ? outcome.waiting : outcome.published
  const [last] = await app.store.publishing.history(context, id)
  await writeDown(context, event, app, waits ? 'release asked for' : 'report published', {
    report: report?.name,
    id,
    version,
    changes: last?.changes ?? [],
  })
  return outcome
})
