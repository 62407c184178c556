/** Starts a run of the published version; its pages can be read while it grows. */
export default route(async (context, event, app) => {
  const { report, answers, layout } = await bodyOf(event, 'run')
  const { id, name, version, definition } = await app.store.report(context, report, 'published')
  const input = await app.checkedInput(context, name, definition, answers, { version: `${id} ${version}`, layout })
  const run = app.runs.start(context, { ...input, moment: Date.now() }, id)
  return { id: run.id }
})
