import { matchQuery } from '../../core/sql/match'
import { findTable, type JoinPair } from '../../core/catalog/types'
import { tableSql } from '../../core/sql/plan'
import { valueAt } from '../../core/value/columns'
import { planningOf, readyRun, RunError } from '../runs/execute'
import { type Asked, askedInput, isAsked } from '../utils/asked'

interface Body extends Asked {
  from: string
  to: string
  on: JoinPair[]
  direction: 'related' | 'detail'
}

/** How well a join fits, worked out from the data. */
export default route(async (event, app) => {
  const body = await jsonBody<Body>(
    event,
    each => isAsked(each) && typeof each.from === 'string' && typeof each.to === 'string' && Array.isArray(each.on) && each.on.length > 0,
  )
  const ready = readyRun(await askedInput(app, body), true)
  const planning = planningOf(ready)
  for (const [table, column] of body.on.flatMap(
    pair =>
      [
        [body.from, pair.from],
        [body.to, pair.to],
      ] as const,
  )) {
    if (!findTable(planning.catalog, table)?.columns.some(each => each.name === column))
      throw new RunError([`There is no column “${column}” in “${table}”.`])
  }
  const [from, to] = [tableSql(planning, body.from), tableSql(planning, body.to)]
  const stop = new AbortController()
  event.node.res.on('close', () => stop.abort(new Error('The reader went away.')))
  const rows = await app.engine.query(
    matchQuery(from.sql, to.sql, body.on, body.direction === 'detail' ? 'detail' : 'related', from.authored || to.authored),
    { client: 'match', timeLimit: 30_000, signal: stop.signal },
  )
  const [records, finding, orphans, most] = rows.columns.map(column => (valueAt(column, 0) as { units: number }).units)
  return { records, finding, orphans, most }
})
