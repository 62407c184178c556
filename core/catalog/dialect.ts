import { sql, type SQL } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'

/*
 * Everything in which databases differ and that our statements need: order and folding of text, arrays, and words for types. Whoever
 * writes SQL takes these from here.
 */

const renderer = new PgDialect()

/**
 * A statement as text, identifiers quoted, with its bound values. Our own statements stand on one line; a text of an author's stays as
 * it is.
 */
export function bound(statement: SQL, authored = false): { text: string; values: unknown[] } {
  const { sql: text, params: values } = renderer.sqlToQuery(statement)
  if (authored) return { text, values }
  // what is quoted stays as it is
  return { text: text.replace(/"(?:[^"]|"")*"|'(?:[^']|'')*'|\s*\n\s*/g, part => (part.trim() ? part : ' ')).trim(), values }
}

/** A text as it is put into order: the Unicode root collation (rule 17 of the semantics). */
export const sorted = (value: SQL) => sql`${value} collate "unicode"`

/** A text in small letters, by Unicode's own table whatever the language: the same as `toLowerCase`. */
export const lowered = (value: SQL) => sql`lower(${value} collate "pg_unicode_fast")`

/** A text in capitals: the same as `toUpperCase`. */
export const raised = (value: SQL) => sql`upper(${value} collate "pg_unicode_fast")`

/** A text without case and accents: the same as `folded`. */
export const foldedSql = (value: SQL) =>
  sql`regexp_replace(normalize(${lowered(value)}, NFD), '[' || chr(768) || '-' || chr(879) || ']', '', 'g')`

/** Words for the types of our values. */
export const sqlTypes = { number: 'numeric', text: 'text', date: 'date', moment: 'timestamp', boolean: 'boolean' } as const

/** Stand for empty in comparisons of keys; whether it is empty is compared beside. */
export const standIns = {
  number: '0',
  text: "''",
  date: "'1970-01-01'::date",
  moment: "'1970-01-01'::timestamp",
  boolean: 'false',
} as const

export type ElementType = 'numeric' | 'integer' | 'int' | 'bigint' | 'date' | 'timestamp' | 'boolean' | 'text'

/** An array literal of PostgreSQL (manual, section 8.15.2), bound as one value. */
export function arrayText(values: readonly unknown[]): string {
  const written = (value: unknown) => (typeof value === 'number' ? String(value) : `"${String(value).replace(/["\\]/g, '\\$&')}"`)
  return `{${values.map(value => (value === null || value === undefined ? 'NULL' : written(value))).join(',')}}`
}

/** Values as one bound array; its type is a word of ours or, of a key, the database's own, never a text of a user's. */
export const arrayOf = (values: readonly unknown[], type: ElementType | (string & {})) =>
  sql`${sql.param(arrayText(values))}::${sql.raw(type)}[]`
