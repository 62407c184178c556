import { bound } from '../../core/sql/query'
import { sql } from 'drizzle-orm'
import { findTable } from '../../core/catalog/types'
import { tableSql } from '../../core/sql/plan'
import { valueAt } from '../../core/value/columns'
import { planningOf } from '../runs/execute'
import { readyRun, RunError } from '../runs/input'

/**
 * For each column, within how many keys it changes (none, and it belongs to the header), and how many rows have no key: no header would
 * hold them.
 */
export default route(async (context, event, app) => {
  const { table: name, key, columns, ...asked } = await bodyOf(event, 'split')
  const ready = readyRun(await askedInput(context, app, asked), true)
  const planning = planningOf(ready)
  const table = findTable(planning.catalog, name)
  const missing = [...key, ...columns].find(column => !table?.columns.some(each => each.name === column))
  if (missing) throw new RunError([`There is no column “${missing}” in “${name}”.`])
  if (!columns.length) return { columns: [], without: 0 }
  const source = tableSql(planning, name)
  const groups = sql.join(
    key.map(column => sql`t.${sql.identifier(column)}`),
    sql`, `,
  )
  // empty beside a value is a change too
  const changes = columns.map(
    (column, index) =>
      sql`(count(distinct t.${sql.identifier(column)}) + (count(*) > count(t.${sql.identifier(column)}))::int) > 1 as
        ${sql.identifier(`c${index}`)}`,
  )
  const counts = columns.map((_, index) => sql`count(*) filter (where g.${sql.identifier(`c${index}`)})`)
  const without = sql`count(*) filter (where ${sql.join(
    key.map(column => sql`t.${sql.identifier(column)} is null`),
    sql` or `,
  )}) as ${sql.identifier('without')}`
  const { text, values: params } = bound(
    sql`select ${sql.join(counts, sql`, `)}, coalesce(sum(g.${sql.identifier('without')}), 0) from (select
      ${sql.join(changes, sql`, `)}, ${without} from ${source.sql} as t group by ${groups}) as g`,
  )
  const query = {
    text,
    values: params,
    columns: [...columns, ''].map(path => ({ path, type: 'number' as const, scale: 0 })),
    ...(source.authored ? { authored: true } : {}),
  }
  const rows = await app.sources.reading(context, ready.source, snapshot => snapshot.query(query, { timeLimit: 30_000 }))
  const figures = rows.columns.map(column => (valueAt(column, 0) as { units: number }).units)
  return { columns: columns.map((column, index) => ({ column, keys: figures[index]! })), without: figures.at(-1)! }
})
