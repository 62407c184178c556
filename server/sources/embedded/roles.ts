import type { PGlite } from '@electric-sql/pglite'
import { sql } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import { refusedFunctions, tellingFunctions } from '../reading/refusedFunctions'

/** The role under which all reading is done: it can select from the source's one schema and nothing else. */
export const readerRole = 'estante_reader'

const dialect = new PgDialect()

/** Makes the reading role, or brings its rights up to date. Running it again changes nothing. */
export async function secureSource(db: PGlite, schema: string): Promise<void> {
  const found = await db.query('select 1 from pg_roles where rolname = $1', [readerRole])
  if (!found.rows.length) await db.exec(`create role ${readerRole} nologin`)
  const name = dialect.sqlToQuery(sql`${sql.identifier(schema)}`).sql
  await db.exec(`
    revoke all on schema public from public;
    revoke select on all tables in schema pg_catalog from public;
    revoke select on all tables in schema information_schema from public;
    ${(await runners(db)).map(each => `revoke execute on function ${each} from public;`).join(' ')}
    revoke execute on all functions in schema pg_catalog from ${readerRole};
    revoke usage on language plpgsql from public;
    grant usage on schema ${name} to ${readerRole};
    grant select on all tables in schema ${name} to ${readerRole};`)
}

/** Their full signatures, as this engine has them. */
async function runners(db: PGlite): Promise<string[]> {
  const found = await db.query<{ signature: string }>(
    `select p.oid::regprocedure::text as signature from pg_proc p join pg_namespace n on n.oid = p.pronamespace where n.nspname =
      'pg_catalog' and (p.proname = any($1) or p.proname ~ $2)`,
    [refusedFunctions, tellingFunctions],
  )
  return found.rows.map(row => row.signature)
}
