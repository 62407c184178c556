import { isOver } from '../../runs/runRecord'
import { progressOf } from '../../utils/runInfo'

/** How far a run is. `seen` is how many outline entries the reader has; with `wait` the answer comes when there is news. */
export default route(async (context, event, app) => {
  const run = await runOf(context, event, app)
  const { seen, wait, pages } = askedOf(event)
  if (wait === '1' && !isOver(run) && app.runs.shown(run).pages <= wholeOf(pages, 'pages', 0)) {
    await Promise.race([run.news, new Promise(resolve => setTimeout(resolve, 10_000))])
  }
  const said = [...(run.input.guardFaults ?? []), ...(run.result?.changed?.sentences ?? [])]
  const before = await app.runs.earlier(context, run)
  return {
    state: run.state,
    ...(isOver(run) ? {} : { read: run.read, ...progressOf(run, before) }),
    ...app.runs.shown(run),
    outline: run.outline.slice(wholeOf(seen, 'seen', 0)),
    startedAt: run.startedAt,
    rows: run.result?.rows,
    ms: run.result?.ms,
    tieOuts: run.result?.tieOuts,
    changes: said.length ? said : undefined,
    earlier: before?.id,
    sentences: run.sentences,
    report: run.input.name,
    answers: run.input.answers,
    layout: run.input.layout,
  }
})
