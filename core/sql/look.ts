import { sql } from 'drizzle-orm'
import { bound } from '../catalog/dialect'
import type { ColumnLook, TableLook } from '../catalog/roles'
import type { CatalogTable } from '../catalog/types'
import { type Column, valueAt } from '../value/columns'
import { compareDecimals, type Decimal, decimalText, trim } from '../value/decimal'
import { dayText } from '../value/date'
import type { Query } from './query'

/** Rows of a table that a look takes in, and letters of a text. */
const [mostRows, mostLetters] = [1000, 200]

/** The statement that reads the first rows of a table for a look at its columns. */
export function lookQuery(table: CatalogTable, schema: string): Query {
  const list = table.columns.map(column =>
    column.type === 'text'
      ? sql`left(${sql.identifier(column.name)}::text, ${sql.raw(String(mostLetters))})`
      : sql`${sql.identifier(column.name)}`,
  )
  const statement = sql`select ${sql.join(list, sql`, `)} from ${sql.identifier(schema)}.${sql.identifier(table.name)} limit ${sql.raw(
    String(mostRows),
  )}`
  return {
    ...bound(statement),
    columns: table.columns.map(({ name, type, scale }) => ({ path: name, type, ...(scale === undefined ? {} : { scale }) })),
  }
}

/** What the first rows say of each column. */
export function readLook(table: CatalogTable, rows: { count: number; columns: readonly Column[] }): TableLook {
  return new Map(table.columns.map((column, index) => [column.name, lookOf(column.type, rows.columns[index]!, rows.count)]))
}

function lookOf(type: string, column: Column, rows: number): ColumnLook {
  const different = new Set<string>()
  let [empty, longest, coded, whole] = [0, '', true, true]
  let [lowest, highest]: [Decimal | undefined, Decimal | undefined] = [undefined, undefined]
  for (let row = 0; row < rows; row++) {
    const value = valueAt(column, row)
    if (value === null || value === '') {
      empty++
      continue
    }
    const text =
      type === 'number'
        ? decimalText(trim(value as Decimal))
        : type === 'date'
          ? dayText(value as number)
          : typeof value === 'object'
            ? ''
            : String(value)
    different.add(text || JSON.stringify(value, (_, each: unknown) => (typeof each === 'bigint' ? String(each) : each)))
    if (text.length > longest.length) longest = text
    if (type === 'number') {
      const own = value as Decimal
      if (!lowest || compareDecimals(own, lowest) < 0) lowest = own
      if (!highest || compareDecimals(own, highest) > 0) highest = own
      whole &&= !text.includes('.')
    }
    coded &&= /^[\p{L}\d/.#-]{1,24}$/u.test(text) && /\d/.test(text)
  }
  return {
    rows,
    empty,
    distinct: different.size,
    longest,
    ...(lowest && highest ? { lowest: decimalText(lowest), highest: decimalText(highest), whole } : {}),
    ...(type === 'text' ? { coded: coded && different.size > 0 } : {}),
  }
}
