import { bound } from '../catalog/dialect'
import type { CatalogTable } from '../catalog/types'
import type { Query } from './query'
import { type SQL, sql } from 'drizzle-orm'

/**
 * The statement that looks for a value in a table: how many rows hold it, per column, without case. Numbers and dates are compared as
 * they are written.
 */
export function valueQuery(schema: string, table: CatalogTable, value: string): Query {
  const wanted = value.trim()
  const columns = table.columns.filter(
    column =>
      column.type === 'text' ||
      (column.type === 'number' && /^-?\d+(\.\d+)?$/.test(wanted)) ||
      ((column.type === 'date' || column.type === 'moment') && /^\d{4}-\d{2}-\d{2}$/.test(wanted)),
  )
  const tests = columns.map((column): SQL => {
    const name = sql`t.${sql.identifier(column.name)}`
    if (column.type === 'number') return sql`count(*) filter (where ${name} = ${wanted}::numeric)`
    if (column.type === 'moment') return sql`count(*) filter (where ${name} >= ${wanted}::date and ${name} < ${wanted}::date + 1)`
    if (column.type === 'date') return sql`count(*) filter (where ${name} = ${wanted}::date)`
    return wanted.length < 3
      ? sql`count(*) filter (where ${name}::text = ${wanted})`
      : sql`count(*) filter (where position(lower(${wanted}) in lower(${name}::text)) > 0)`
  })
  const { text, values: params } = bound(
    sql`select ${tests.length ? sql.join(tests, sql`, `) : sql`0`} from ${sql.identifier(schema)}.${sql.identifier(table.name)} as t`,
  )
  return {
    text,
    values: params,
    columns: (columns.length ? columns.map(column => column.name) : ['']).map(path => ({ path, type: 'number', scale: 0 })),
  }
}
