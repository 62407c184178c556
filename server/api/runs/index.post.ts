/** Starts a run of the published version; its pages can be read while it grows. */
export default route(async (context, event, app) => {
  const { report, answers, layout } = await bodyOf(event, 'run')
  const { id, name, version, definition } = await app.store.report(context, report, 'published')
  const input = await app.checkedInput(context, name, definition, answers, { version: `${id} ${version}`, layout })
  await app.runs.needRoom(context)
  const run = app.runs.start(context, { ...input, moment: Date.now() }, id)
  await run.kept
  await writeDown(context, event, app, 'report run', { report: name, id, version, answers, run: run.id })
  // what is written down when Estante is stopped meanwhile is that it was begun
  void run.over
    .then(() => writeDown(context, event, app, 'run ended', { report: name, id, run: run.id, state: run.state, rows: run.result?.rows }))
    .catch(() => {})
  return { id: run.id }
})
