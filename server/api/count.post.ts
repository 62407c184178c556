import { valueAt } from '../../core/value/columns'
import { planRun, readyRun } from '../runs/execute'
import { type Asked, askedInput, isAsked } from '../utils/asked'

/** How many roots a definition gives. */
export default route(async (event, app) => {
  const ready = readyRun(await askedInput(app, await jsonBody<Asked>(event, isAsked)), true)
  const rows = await app.engine.query(planRun(ready, false).count, { client: 'count', timeLimit: 30_000 })
  return { count: (valueAt(rows.columns[0]!, 0) as { units: number }).units }
})
