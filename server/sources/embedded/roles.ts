import type { PGlite } from '@electric-sql/pglite'
import { sql } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'

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

/**
 * Functions by which a SELECT could change its own settings, run another text, or reach beyond the tables: nobody but the owner may call
 * them.
 */
const refused = [
  'set_config',
  'query_to_xml',
  'query_to_xmlschema',
  'query_to_xml_and_xmlschema',
  'cursor_to_xml',
  'cursor_to_xmlschema',
  'table_to_xml',
  'table_to_xmlschema',
  'table_to_xml_and_xmlschema',
  'schema_to_xml',
  'schema_to_xmlschema',
  'schema_to_xml_and_xmlschema',
  'database_to_xml',
  'database_to_xmlschema',
  'database_to_xml_and_xmlschema',
  'ts_stat',
  'ts_rewrite',
  'lo_creat',
  'lo_create',
  'lo_from_bytea',
  'lo_import',
  'lo_export',
  'lo_open',
  'lo_put',
  'lo_unlink',
  'lowrite',
  'lo_truncate',
  'lo_truncate64',
  'pg_advisory_lock',
  'pg_advisory_lock_shared',
  'pg_advisory_xact_lock',
  'pg_advisory_xact_lock_shared',
  'pg_try_advisory_lock',
  'pg_notify',
  'pg_terminate_backend',
  'pg_cancel_backend',
  'pg_reload_conf',
  'pg_export_snapshot',
  'pg_logical_emit_message',
  'pg_sleep',
  'pg_sleep_for',
  'pg_sleep_until',
  'txid_current',
  'pg_current_xact_id',
  'setseed',
  'nextval',
  'setval',
  'currval',
  'lastval',
]

/** Functions that tell of the engine itself: its settings, statistics, control file, files, locks and journal. */
const told =
  '^(pg_stat|pg_control|pg_show|pg_ls|pg_read|pg_(try_)?advisory|pg_lock|pg_get_(wal|backend|shmem|aios)|pg_current_wal|pg_wal|pg_last|' +
  'pg_hba|pg_ident|pg_conf|pg_postmaster|pg_safe|pg_log|pg_replication|pg_copy|pg_create|pg_drop|pg_switch|pg_promote|pg_backup|' +
  'pg_file|pg_database_size|pg_tablespace|inet_|current_setting$|binary_upgrade|pg_prepared|pg_cursor|pg_available|pg_timezone)'

/** Their full signatures, as this engine has them. */
async function runners(db: PGlite): Promise<string[]> {
  const found = await db.query<{ signature: string }>(
    `select p.oid::regprocedure::text as signature from pg_proc p join pg_namespace n on n.oid = p.pronamespace where n.nspname =
      'pg_catalog' and (p.proname = any($1) or p.proname ~ $2)`,
    [refused, told],
  )
  return found.rows.map(row => row.signature)
}
