import pg from 'pg'
import type { TriedServer } from '../../../core/api/intake'
import { StoreError } from '../../store/records'
import { clientConfig, placeOf, reachSentence, type ServerAddress } from './address'

/** The oldest version whose statements are tested. */
const oldest = 13

interface About {
  version: number
  shown: string
  encoding: string
  zone: string
  now: string
  user: string
  superuser: boolean
  creates: boolean
}

interface SchemaRow {
  name: string
  tables: number
  hidden: number
  rows: number
  writes: boolean
}

/** Goes to a server and looks around, by reading only. @throws StoreError with one sentence */
export async function tryServer(address: ServerAddress, password?: string): Promise<TriedServer> {
  const client = new pg.Client(clientConfig(address, password))
  client.on('error', () => {})
  try {
    await client.connect()
    await client.query("begin transaction read only; set local search_path to ''; set local statement_timeout to 20000")
    const about = (
      await client.query<About>(
        `select current_setting('server_version_num')::int as version, current_setting('server_version') as shown,
                current_setting('server_encoding') as encoding, current_setting('TimeZone') as zone,
                to_char(clock_timestamp(), 'YYYY-MM-DD HH24:MI') as now, current_user::text as "user", r.rolsuper as superuser,
                has_database_privilege(current_database(), 'create') as creates
         from pg_roles r where r.rolname = current_user`,
      )
    ).rows[0]!
    const schemas = (
      await client.query<SchemaRow>(
        `select n.nspname::text as name, count(*) filter (where t.may and not c.relispartition)::int as tables,
                count(*) filter (where not t.may and not c.relispartition)::int as hidden,
                coalesce(sum(greatest(c.reltuples, 0)) filter (where t.may and c.relkind in ('r', 'm')), 0)::float8 as rows,
                coalesce(bool_or(has_table_privilege(c.oid, 'insert, update, delete, truncate')), false) as writes
         from pg_namespace n
         join pg_class c on c.relnamespace = n.oid and c.relkind in ('r', 'v', 'm', 'p', 'f')
         cross join lateral (select has_schema_privilege(n.oid, 'usage') and has_any_column_privilege(c.oid, 'select') as may) t
         where n.nspname !~ '^pg_' and n.nspname <> 'information_schema'
         group by n.nspname order by n.nspname`,
      )
    ).rows
    const notes: string[] = []
    const version = Math.floor(about.version / 10_000)
    if (version < oldest) notes.push(`Version ${about.shown} is older than ${oldest}, the oldest that Estante is tested with.`)
    if (about.superuser)
      notes.push(
        `“${about.user}” may do everything on this server; let Estante read as a user who may only read, such as one you make for it.`,
      )
    else if (about.creates || schemas.some(each => each.writes))
      notes.push(`“${about.user}” may also write; Estante only ever reads, but a user who may only read is safer.`)
    const hidden = schemas.reduce((sum, each) => sum + each.hidden, 0)
    if (hidden)
      notes.push(`${hidden} ${hidden === 1 ? 'table' : 'tables'} may not be read by “${about.user}” and will not be seen in Estante.`)
    if (about.encoding === 'SQL_ASCII')
      notes.push('The database does not say in which encoding its texts are written (SQL_ASCII), so it cannot be read exactly.')
    if (!schemas.some(each => each.tables)) notes.push(`There is no table here that “${about.user}” may read.`)
    return {
      place: placeOf(address),
      version: about.shown,
      encrypted: address.tls !== 'off',
      zone: about.zone,
      now: about.now,
      superuser: about.superuser,
      schemas: schemas.filter(each => each.tables).map(({ name, tables, rows }) => ({ name, tables, rows: Math.round(rows) })),
      notes,
    }
  } catch (error) {
    throw new StoreError(reachSentence(error, address), 422)
  } finally {
    void client.end().catch(() => {})
  }
}
