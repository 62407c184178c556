import { matchQuery } from '../../core/sql/match'
import { findTable, type JoinPair } from '../../core/catalog/types'
import { tableSql } from '../../core/sql/plan'
import { valueAt } from '../../core/value/columns'
import { planningOf } from '../runs/execute'
import { readyRun, RunError } from '../runs/input'

/** How well a join fits, worked out from the data. */
export default route(async (context, event, app) => {
  const body = await bodyOf(event, 'match')
  const ready = readyRun(await askedInput(context, app, body), true)
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
  const query = matchQuery(from.sql, to.sql, body.on as JoinPair[], body.direction, from.authored || to.authored)
  const rows = await app.sources.reading(context, ready.source, snapshot => snapshot.query(query, { timeLimit: 30_000 }))
  const [records, finding, orphans, most] = rows.columns.map(column => (valueAt(column, 0) as { units: number }).units)
  return { records, finding, orphans, most }
})
