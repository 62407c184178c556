/** How far a run is. `seen` is how many outline entries the reader has; with `wait` the answer comes when there is news. */
export default route(async (context, event, app) => {
  const run = await runOf(context, event, app)
  const { seen, wait, pages } = askedOf(event)
  if (wait === '1' && run.state === 'running' && app.runs.shown(run).pages <= wholeOf(pages, 'pages', 0)) {
    await Promise.race([run.news, new Promise(resolve => setTimeout(resolve, 10_000))])
  }
  const said = [...(run.input.guardFaults ?? []), ...(run.result?.changed?.sentences ?? [])]
  return {
    state: run.state,
    ...app.runs.shown(run),
    outline: run.outline.slice(wholeOf(seen, 'seen', 0)),
    startedAt: run.startedAt,
    rows: run.result?.rows,
    ms: run.result?.ms,
    tieOuts: run.result?.tieOuts,
    changes: said.length ? said : undefined,
    earlier: (await app.runs.earlier(context, run))?.id,
    sentences: run.sentences,
    report: run.input.name,
    answers: run.input.answers,
    layout: run.input.layout,
  }
})
