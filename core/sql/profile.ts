import { sql, type SQL } from 'drizzle-orm'
import { type Query, withTexts } from './query'
import { type Column, valueAt } from '../value/columns'
import type { Value, ValueType } from '../value/value'
import { sorted, foldedSql, bound } from '../catalog/dialect'
import type { PlanInput } from './planInput'
import { fieldSelect } from './planner'

/** What a field really holds. Values are texts, as the database writes them (dates as ISO 8601, numbers with their digits). */
export interface FieldProfile {
  type: ValueType
  records: number
  empty: number
  distinct: number
  lowest: string | null
  highest: string | null
  /** of numbers, to six digits after the mark */
  average: string | null
  /** the most frequent values, and how many records hold each */
  top: { value: string; count: number }[]
  /** equal stretches from lowest to highest, of numbers and dates */
  bars: { from: number; to: number; count: number }[]
}

const mostTop = 30
const barCount = 24

/**
 * One statement for all figures of a field: its values are grouped once, and everything else is worked out from the groups,
 * so that a column of a million rows is read once and no row leaves the database. A search narrows the most frequent values only.
 */
export function profileQuery(input: PlanInput, level: number, path: string, search = ''): Query {
  const { select, texts } = fieldSelect(input, level, path)
  const { type } = input.levels[level]!.fields.get(path)!
  const measured = type === 'number' || type === 'date' || type === 'moment'
  const place =
    type === 'date'
      ? sql`(x - date '1970-01-01')::numeric`
      : type === 'moment'
        ? sql`(extract(epoch from x)::numeric / 86400)`
        : sql`x::numeric`
  const order = type === 'text' ? sorted(sql`v.x`) : sql`v.x`
  const part = (kind: string, ...values: SQL[]) =>
    sql`select ${sql.raw(`'${kind}'`)}::text as kind, ${sql.join(
      [0, 1, 2, 3, 4, 5].map(index => (values[index] ? sql`(${values[index]})::text` : sql`null::text`)),
      sql`, `,
    )}`
  const lowest = type === 'boolean' ? [sql`bool_and(x)`, sql`bool_or(x)`] : [sql`min(${order})`, sql`max(${order})`]
  const parts = [
    sql`${part(
      'figures',
      sql`coalesce(sum(n),
      0)`,
      sql`coalesce(sum(n) filter (where x is null),
        0)`,
      sql`count(x)`,
      ...lowest,
      type === 'number'
        ? sql`trim_scale(round(sum(x * n) / nullif(sum(n) filter (where x is not
          null), 0), 6))`
        : sql`null`,
    )} from v`,
    sql`(${part('top', sql`x`, sql`n`)} from v where x is not null
      ${search.trim() ? sql`and position(${foldedSql(sql`${search.trim()}::text`)} in ${foldedSql(sql`x::text`)}) > 0` : sql``}
      order by v.n desc, ${order} limit ${mostTop})`,
    ...(measured
      ? [
          sql`(with e as (select min(${place}) as low, max(${place}) as high from v), w as (select least(${barCount}, case when
            e.high > e.low then floor((${place} - e.low) * ${barCount} / (e.high - e.low))::int + 1 else 1 end) as bar, n, e.low,
            e.high from v, e where x is not null)
      ${part('bar', sql`bar`, sql`sum(n)`, sql`min(low)`, sql`min(high)`)} from w group by bar)`,
        ]
      : []),
  ]
  const { text, values: params } = bound(
    sql`with v as materialized (select x, count(*) as n from (${select}) as f(x) group by x) ${sql.join(parts, sql` union all `)}`,
  )
  return {
    text,
    values: params,
    columns: ['kind', 'a', 'b', 'c', 'd', 'e', 'f'].map(each => ({ path: each, type: 'text' })),
    ...withTexts(texts),
  }
}

/** Reads what the statement gave. */
export function readProfile(type: ValueType, rows: { count: number; columns: Column[] }): FieldProfile {
  const profile: FieldProfile = { type, records: 0, empty: 0, distinct: 0, lowest: null, highest: null, average: null, top: [], bars: [] }
  for (let row = 0; row < rows.count; row++) {
    const [kind, ...cells] = rows.columns.map(column => valueAt(column, row) as Value as string | null)
    if (kind === 'figures') {
      ;[profile.records, profile.empty, profile.distinct] = cells.slice(0, 3).map(Number) as [number, number, number]
      ;[profile.lowest, profile.highest, profile.average] = [cells[3]!, cells[4]!, cells[5]!]
    } else if (kind === 'top') profile.top.push({ value: cells[0]!, count: Number(cells[1]) })
    else {
      const [bar, count, low, high] = cells.map(Number) as [number, number, number, number]
      const width = (high - low) / barCount
      profile.bars.push({ from: low + (bar - 1) * width, to: low + bar * width, count })
    }
  }
  profile.bars.sort((a, b) => a.from - b.from)
  return profile
}
