import { sql, type SQL } from 'drizzle-orm'
import { bound } from '../catalog/dialect'
import type { Catalog } from '../books/catalog'
import { quotedName, withPlaceholders } from '../sql/statementParts'
import type { Sight } from './sight'

/** The role under which a text of an author's is run for somebody with guards; it is there for that statement only. */
export const guardedRole = 'estante_guarded'

/** A value as a statement writes it (PostgreSQL manual, section 4.1.2.1; standard_conforming_strings is on). */
const literal = (value: unknown): string => (value === null ? 'null' : `'${String(value).replaceAll("'", "''")}'`)

function written(statement: SQL): string {
  const { text, values } = bound(statement)
  return withPlaceholders(text, number => literal(values[number - 1]))
}

/**
 * Statements that make a role which sees what somebody sees (PostgreSQL manual, section 5.9): the owner of the tables runs them, in the
 * transaction in which the role is used, and taken back with it. A guard of one table that asks another sees of that what the role sees.
 */
export function policyStatements(catalog: Catalog, schema: string, sight: Sight): string[] {
  const place = (table: string) => `${quotedName(schema)}.${quotedName(table)}`
  const role = quotedName(guardedRole)
  const statements = [`create role ${role} nologin`, `grant usage on schema ${quotedName(schema)} to ${role}`]
  for (const table of catalog.tables) {
    const hidden = sight.hidden.get(table.name)
    const columns = table.columns
      .filter(column => !hidden?.has(column.name))
      .flatMap(column => [column.name, ...(column.raw === undefined ? [] : [column.raw])])
    const list = hidden ? ` (${columns.map(quotedName).join(', ')})` : ''
    statements.push(`grant select${list} on ${place(table.name)} to ${role}`)
    const test = sight.tests.get(table.name)
    if (!test) continue
    const using = written(
      test(
        column => sql`${sql.identifier(schema)}.${sql.identifier(table.name)}.${sql.identifier(column)}`,
        other => sql`${sql.identifier(schema)}.${sql.identifier(other)}`,
      ),
    )
    statements.push(
      `alter table ${place(table.name)} enable row level security`,
      `create policy ${role} on ${place(table.name)} for select to ${role} using (${using})`,
    )
  }
  return statements
}
