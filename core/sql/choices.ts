import { sql, type SQL } from 'drizzle-orm'
import { findTable } from '../catalog/types'
import type { ParameterDefinition } from '../definition/parameters'
import { PlanError, type Query, withTexts } from './query'
import { folded } from '../value/text'
import type { Narrowing } from '../parameter/narrowing'
import { arrayOf, foldedSql, sorted, bound } from '../catalog/dialect'
import type { PlanInput } from './planInput'
import { tableSql } from './planner'

export interface ChoicesWanted {
  search?: string
  offset?: number
  limit: number
  narrowing: readonly Narrowing[]
  /** only these values: to see which are among the choices, with their labels */
  values?: readonly string[]
}

/**
 * The statements that read a page of a parameter's choices, distinct and sorted by label, how many there are, and all of them, whatever
 * is looked for. @throws PlanError
 */
export function choicesQueries(
  input: Omit<PlanInput, 'levels' | 'used'>,
  parameter: ParameterDefinition,
  wanted: ChoicesWanted,
): { page: Query; count: Query; all: Query } {
  const { choices } = parameter
  const table = choices && findTable(input.catalog, choices.table)
  if (!choices || !table)
    throw new PlanError(
      `The table “${choices?.table ?? ''}” with the choices of ${parameter.label} is not in the source any more; choose another.`,
    )
  const label = choices.label || choices.value
  for (const column of [choices.value, label, ...wanted.narrowing.map(each => each.column)]) {
    if (!table.columns.some(each => each.name === column))
      throw new PlanError(
        `The column “${column}” of “${table.name}”, which the choices of ${parameter.label} need, is not there any more; choose another.`,
      )
  }
  const source = tableSql(input, choices.table)
  const of = (column: string) => sql`${sql.identifier('choices')}.${sql.identifier(column)}`
  const [value, text] = [sql`${of(choices.value)}::text`, sql`${of(label)}::text`]
  const conditions: SQL[] = [sql`${of(choices.value)} is not null`]
  for (const { column, values } of wanted.narrowing) conditions.push(sql`${of(column)}::text = any(${arrayOf(values, 'text')})`)
  if (wanted.values) conditions.push(sql`${value} = any(${arrayOf(wanted.values, 'text')})`)
  const whole = sql`where ${sql.join([...conditions], sql` and `)}`
  if (wanted.search?.trim()) {
    const search = wanted.search.trim()
    // most labels are plain ASCII, which needs no decomposing: the same answer in a fraction of the time
    const quick = (part: SQL) => sql`case when octet_length(${part}) = char_length(${part}) then lower(${part}) else ${foldedSql(part)} end`
    const wantedText = sql`${folded(search)}::text`
    const holds = (part: SQL) => sql`position(${wantedText} in ${quick(part)}) > 0`
    conditions.push(label === choices.value ? holds(text) : sql`(${holds(text)} or ${holds(value)})`)
  }
  const where = sql`where ${sql.join(conditions, sql` and `)}`
  const from = sql`from ${source.sql} as ${sql.identifier('choices')}`
  // a key's values are distinct as they are
  const unique =
    (table.primaryKey.length === 1 && table.primaryKey[0] === choices.value) ||
    input.catalog.foreignKeys.some(key => key.to.table === table.name && key.to.columns.length === 1 && key.to.columns[0] === choices.value)
  const rows = (which: SQL) =>
    unique
      ? sql`select ${value} as value, ${text} as label ${from} ${which}`
      : sql`select ${value} as value, min(${sorted(text)}) as label ${from} ${which} group by 1`
  const query = (statement: SQL, columns: Query['columns']): Query => {
    return { ...bound(statement, source.texts.length > 0), columns, ...withTexts(source.texts) }
  }
  const columns: Query['columns'] = [
    { path: 'value', type: 'text' },
    { path: 'label', type: 'text' },
  ]
  const inOrder = (which: SQL) => sql`select value, label from (${rows(which)}) as page order by ${sorted(sql`label`)} nulls last, value`
  return {
    all: query(inOrder(whole), columns),
    page: query(sql`${inOrder(where)} limit ${wanted.limit} offset ${wanted.offset ?? 0}`, columns),
    count: query(unique ? sql`select count(*) ${from} ${where}` : sql`select count(distinct ${value}) ${from} ${where}`, [
      { path: 'count', type: 'number', scale: 0 },
    ]),
  }
}
