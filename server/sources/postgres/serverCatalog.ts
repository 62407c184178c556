import { quotedName as quoted } from '../../../core/sql/statementParts'
import type { CatalogColumn, CatalogTable, ForeignKey, TableCatalog } from '../../../core/catalog/types'
import { readAs } from '../../../core/catalog/readAs'
import type { Asked } from '../reading/foundBooks'
import type { RealTable } from './words'

/** What a server holds in some of its schemas, and how each of its tables is read. */
export interface ServerCatalog extends TableCatalog {
  real: Map<string, RealTable>
}

interface ColumnRow {
  id: number
  schema: string
  table: string
  kind: string
  table_comment: string | null
  estimate: number
  size: number
  column: string
  place: number
  type: string
  base: string
  required: boolean
  comment: string | null
  readable: boolean
}

/**
 * Tables, views and partitioned tables that this role may read, column by column (PostgreSQL manual, chapter 52 and section 9.26): parts of
 * partitioned tables are left out, domains stand for the type under them.
 */
const columnsQuery = `
  with recursive base(type, modifier, under, over) as (
    select t.oid, -1, t.typbasetype, t.typtypmod from pg_type t where t.typtype = 'd'
    union all
    select b.type, b.modifier, t.typbasetype, case when b.over >= 0 then b.over else t.typtypmod end
    from base b join pg_type t on t.oid = b.under and t.typtype = 'd'
  ), under as (
    select b.type, format_type(b.under, b.over) as name from base b join pg_type t on t.oid = b.under and t.typtype <> 'd'
  )
  select c.oid::int8::float8 as id, n.nspname::text as schema, c.relname::text as "table", c.relkind::text as kind,
         obj_description(c.oid, 'pg_class') as table_comment,
         case when c.relkind = 'p' then coalesce((select sum(greatest(p.reltuples, 0)) from pg_partition_tree(c.oid) t
           join pg_class p on p.oid = t.relid where t.isleaf), 0) else c.reltuples end::float8 as estimate,
         case when c.relkind in ('r', 'm') then pg_relation_size(c.oid) else 0 end::float8 as size,
         a.attname::text as "column", a.attnum::int as place, format_type(a.atttypid, a.atttypmod) as type,
         coalesce(u.name, format_type(a.atttypid, a.atttypmod)) as base, a.attnotnull as required,
         col_description(c.oid, a.attnum) as comment, has_column_privilege(c.oid, a.attnum, 'select') as readable
  from pg_class c
  join pg_namespace n on n.oid = c.relnamespace
  join pg_attribute a on a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped
  left join under u on u.type = a.atttypid
  where n.nspname = any($1::text[]) and c.relkind in ('r', 'v', 'm', 'p', 'f') and not c.relispartition
  order by array_position($1::text[], n.nspname::text), c.relname, a.attnum`

/** The primary key of each table; where it has none, a unique index over columns that are never empty. */
const keysQuery = `
  select distinct on (i.indrelid) i.indrelid::int8::float8 as id,
         array(select k.num::int from unnest(i.indkey::int2[]) with ordinality as k(num, place)
               where k.place <= i.indnkeyatts order by k.place) as places
  from pg_index i join pg_class c on c.oid = i.indrelid join pg_namespace n on n.oid = c.relnamespace
  where n.nspname = any($1::text[]) and i.indisunique and i.indisvalid and i.indpred is null and i.indexprs is null
    and (i.indisprimary or not exists (
      select 1 from unnest(i.indkey::int2[]) with ordinality as k(num, place)
      join pg_attribute a on a.attrelid = i.indrelid and a.attnum = k.num
      where k.place <= i.indnkeyatts and not a.attnotnull))
  order by i.indrelid, i.indisprimary desc, i.indnkeyatts, i.indexrelid`

const foreignQuery = `
  select k.conname::text as name, k.conrelid::int8::float8 as from_id, k.confrelid::int8::float8 as to_id,
         k.conkey::int[] as from_places, k.confkey::int[] as to_places
  from pg_constraint k
  where k.contype = 'f' and k.conparentid = 0
  order by k.conrelid::regclass::text, k.conname`

/** Longest that is looked for times in the moments of a table, and of all tables, in milliseconds. */
const [lookLimit, lookLimits] = [2000, 10_000]

/** What a column of dates says where a time has come into it. */
export const timeInDate = 'has a time, though its column held none when the tables were read'

/**
 * Moments that are all at midnight are dates (rule 44 of the semantics). Where that cannot be told quickly they stay moments; one that
 * comes later with a time is an error of its statement, never cut.
 */
async function readDates(
  db: Asked,
  real: RealTable,
  moments: readonly CatalogColumn[],
  columns: { name: string; as: string }[],
): Promise<void> {
  const from = `${quoted(real.schema)}.${quoted(real.name)} as own`
  const clockOf = (column: CatalogColumn) => `own.${quoted(column.name)}${readAs(column.databaseType).cast ?? ''}`
  const tests = moments.map(
    (column, at) =>
      `exists (select 1 from ${from} where ${clockOf(column)} is not null) and not exists (select 1 from ${from} where ${clockOf(column)} <>
        date_trunc('day', ${clockOf(column)})) as c${at}`,
  )
  await db.query('savepoint looking')
  try {
    await db.query(`set local statement_timeout to ${lookLimit}`)
    const { rows } = await db.query<Record<string, boolean>>(`select ${tests.join(', ')}`)
    moments.forEach((column, at) => {
      if (!rows[0]![`c${at}`]) return
      column.type = 'date'
      const clock = clockOf(column)
      const as = `case when ${clock} = date_trunc('day', ${clock}) then ${clock}::date else (${clock}::text ||
        ' ${timeInDate}')::date end`
      columns.find(each => each.name === column.name)!.as = as
      real.columns = columns
    })
  } catch {
    // it takes too long, or may not be read
    await db.query('rollback to savepoint looking')
  }
  await db.query('release savepoint looking')
}

/** Rows of a table that was never analysed, by its size in bytes. */
const bytesPerRow = 120

/**
 * Reads what the schemas hold. Tables of the first are called by their name, those of others by schema and name, so that none changes its
 * name when a schema is added.
 */
export async function readServerCatalog(db: Asked, schemas: readonly string[], logical: string): Promise<ServerCatalog> {
  const [columns, keys, foreign] = [
    (await db.query<ColumnRow>(columnsQuery, [schemas])).rows,
    (await db.query<{ id: number; places: number[] }>(keysQuery, [schemas])).rows,
    (await db.query<{ name: string; from_id: number; to_id: number; from_places: number[]; to_places: number[] }>(foreignQuery)).rows,
  ]
  const found: ServerCatalog = { tables: [], foreignKeys: [], real: new Map() }
  const known = new Map<number, { table: CatalogTable; kind: string; names: Map<number, string> }>()
  const casts = new Map<string, { name: string; as: string }[]>()
  for (const row of columns) {
    let at = known.get(row.id)
    if (!at) {
      const name = row.schema === schemas[0] ? row.table : `${row.schema}.${row.table}`
      const table: CatalogTable = {
        schema: logical,
        name,
        ...(row.table_comment ? { comment: row.table_comment } : {}),
        columns: [],
        primaryKey: [],
        rowEstimate: Math.round(row.estimate > 0 ? row.estimate : row.size / bytesPerRow),
      }
      known.set(row.id, (at = { table, kind: row.kind, names: new Map() }))
      found.tables.push(table)
      found.real.set(name, { schema: row.schema, name: row.table, ...('vm'.includes(row.kind) ? { view: true } : {}) })
      casts.set(name, [])
    }
    const own = casts.get(at.table.name)!
    // a column that may not be read is not there for us, and the others are read by their names
    if (!row.readable) {
      found.real.get(at.table.name)!.columns = own
      continue
    }
    const { cast, ...as } = readAs(row.base)
    const name = `own.${quoted(row.column)}`
    own.push({ name: row.column, as: `${name}${cast ?? ''}` })
    const raw = cast && !as.inexact ? `as kept ${row.place}` : undefined
    if (raw) own.push({ name: raw, as: name })
    if (cast) found.real.get(at.table.name)!.columns = own
    const column: CatalogColumn = {
      name: row.column,
      ...as,
      databaseType: row.base,
      required: row.required,
      ...(row.comment ? { comment: row.comment } : {}),
      ...(raw ? { raw } : {}),
    }
    at.table.columns.push(column)
    at.names.set(row.place, row.column)
  }
  const until = Date.now() + lookLimits
  for (const { table, kind } of known.values()) {
    const moments = table.columns.filter(column => column.type === 'moment')
    if (!moments.length || !['r', 'm', 'p'].includes(kind) || Date.now() > until) continue
    await readDates(db, found.real.get(table.name)!, moments, casts.get(table.name)!)
  }
  for (const [id, { table }] of known) if (!table.columns.length) known.delete(id)
  found.tables = found.tables.filter(table => table.columns.length)
  const named = (id: number, places: readonly number[]) => {
    const names = places.map(place => known.get(id)?.names.get(place))
    return names.every(name => name !== undefined) && names.length ? (names as string[]) : undefined
  }
  for (const { id, places } of keys) {
    const names = named(id, places)
    if (names) known.get(id)!.table.primaryKey = names
  }
  for (const key of foreign) {
    const [from, to] = [named(key.from_id, key.from_places), named(key.to_id, key.to_places)]
    if (!from || !to) continue
    found.foreignKeys.push({
      name: key.name,
      from: { table: known.get(key.from_id)!.table.name, columns: from },
      to: { table: known.get(key.to_id)!.table.name, columns: to },
    } satisfies ForeignKey)
  }
  return found
}
