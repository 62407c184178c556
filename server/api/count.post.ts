import { valueAt } from '../../core/value/columns'
import { planRun } from '../runs/execute'
import { readyRun } from '../runs/input'

/** How many roots a definition gives. */
export default route(async (context, event, app) => {
  const ready = readyRun(await askedInput(context, app, await bodyOf(event, 'asked')), true)
  const { count } = planRun(ready, 'pages')
  const rows = await app.sources.reading(context, ready.source, snapshot => snapshot.query(count, { timeLimit: 30_000 }))
  return { count: (valueAt(rows.columns[0]!, 0) as { units: number }).units }
})
