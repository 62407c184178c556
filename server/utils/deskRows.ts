import { bound } from '../../core/sql/query'
import { sql, type SQL } from 'drizzle-orm'
import { valueAt } from '../../core/value/columns'
import { plainText } from '../../core/value/plain'
import { dayText } from '../../core/value/date'
import { type Estante, sourceSchema } from '../estante'

/** A table of the demo company. */
export const deskTable = (name: string) => sql`${sql.identifier(sourceSchema)}.${sql.identifier(name)}`

/** Rows of a statement over the demo company, all values as text. */
export async function deskRows<K extends string>(app: Estante, statement: SQL, columns: readonly K[]): Promise<Record<K, string>[]> {
  const { text, values: params } = bound(statement)
  const found = await app.engine.query(
    { text, values: params, columns: columns.map(path => ({ path, type: 'text' as const })) },
    { client: 'desk' },
  )
  return Array.from(
    { length: found.count },
    (_row, row) =>
      Object.fromEntries(columns.map((path, at) => [path, plainText(valueAt(found.columns[at]!, row), dayText)])) as Record<K, string>,
  )
}
