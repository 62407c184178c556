import type { SQL } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import type { ValueType } from '../value/value'
import type { Column } from '../value/columns'

/** A statement with its values bound, and what its columns hold. */
export interface Query {
  text: string
  values: unknown[]
  columns: { path: string; type: ValueType; scale?: number }[]
  /** it holds a text of an author's: the source runs it in the guarded way only */
  authored?: boolean
  /** whoever asked finds its parts by it */
  tag?: number
}

/** A definition that cannot be read from the source: one sentence. */
export class PlanError extends Error {}

/** What a statement gave: one column each, in the order of its select list. */
export interface Rows {
  count: number
  columns: Column[]
}

const dialect = new PgDialect()

/**
 * A statement as text, identifiers quoted, with its bound values. Our own statements stand on one line; a text of an author's stays as
 * it is.
 */
export function bound(statement: SQL, authored = false): { text: string; values: unknown[] } {
  const { sql: text, params: values } = dialect.sqlToQuery(statement)
  if (authored) return { text, values }
  // what is quoted stays as it is
  return { text: text.replace(/"(?:[^"]|"")*"|'(?:[^']|'')*'|\s*\n\s*/g, part => (part.trim() ? part : ' ')).trim(), values }
}
