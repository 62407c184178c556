import type { PGlite } from '@electric-sql/pglite'
import type { Catalog } from '../../../core/books/catalog'
import type { CatalogColumn } from '../../../core/catalog/types'
import { typeOf } from '../../../core/catalog/readAs'
import { withBooks } from '../reading/foundBooks'

interface ColumnRow {
  table_name: string
  table_comment: string | null
  estimate: number
  column_name: string
  type_name: string
  required: boolean
  comment: string | null
  is_key: number | null
}
interface KeyRow {
  name: string
  from_table: string
  from_columns: string[]
  to_table: string
  to_columns: string[]
}

/** Tables, columns, keys, comments and row estimates of one schema, from the system catalogs (PostgreSQL manual, chapter 52). */
export async function readCatalog(db: Pick<PGlite, 'query'>, schema: string): Promise<Catalog> {
  const columns = await db.query<ColumnRow>(
    `
    select c.relname as table_name, obj_description(c.oid, 'pg_class') as table_comment, greatest(c.reltuples, 0)::float8 as estimate,
           a.attname as column_name, format_type(a.atttypid, a.atttypmod) as type_name, a.attnotnull as required,
           col_description(c.oid, a.attnum) as comment, array_position(k.conkey, a.attnum) as is_key
    from pg_class c
    join pg_namespace n on n.oid = c.relnamespace
    join pg_attribute a on a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped
    left join pg_constraint k on k.conrelid = c.oid and k.contype = 'p'
    where n.nspname = $1 and c.relkind in ('r', 'v', 'm', 'p')
    order by c.relname, a.attnum`,
    [schema],
  )
  const keys = await db.query<KeyRow>(
    `
    select k.conname as name, f.relname as from_table, t.relname as to_table,
           array(select a.attname::text from unnest(k.conkey) with ordinality as u(num, place) join pg_attribute a on a.attrelid =
           k.conrelid and a.attnum = u.num order by u.place) as from_columns,
           array(select a.attname::text from unnest(k.confkey) with ordinality as u(num, place) join pg_attribute a on a.attrelid =
           k.confrelid and a.attnum = u.num order by u.place) as to_columns
    from pg_constraint k
    join pg_class f on f.oid = k.conrelid
    join pg_class t on t.oid = k.confrelid
    join pg_namespace n on n.oid = f.relnamespace
    where k.contype = 'f' and n.nspname = $1
    order by f.relname, k.conname`,
    [schema],
  )
  const catalog: Catalog = { tables: [], foreignKeys: [] }
  const keyPlaces = new Map<string, [number, string][]>()
  for (const row of columns.rows) {
    let table = catalog.tables.at(-1)
    if (table?.name !== row.table_name) {
      table = {
        schema,
        name: row.table_name,
        ...(row.table_comment ? { comment: row.table_comment } : {}),
        columns: [],
        primaryKey: [],
        rowEstimate: Math.round(row.estimate),
      }
      catalog.tables.push(table)
      keyPlaces.set(table.name, [])
    }
    const column: CatalogColumn = {
      name: row.column_name,
      ...typeOf(row.type_name),
      databaseType: row.type_name,
      required: row.required,
      ...(row.comment ? { comment: row.comment } : {}),
    }
    table.columns.push(column)
    if (row.is_key) keyPlaces.get(table.name)!.push([row.is_key, column.name])
  }
  for (const table of catalog.tables)
    table.primaryKey = keyPlaces
      .get(table.name)!
      .sort((a, b) => a[0] - b[0])
      .map(([, name]) => name)
  catalog.foreignKeys = keys.rows.map(row => ({
    name: row.name,
    from: { table: row.from_table, columns: row.from_columns },
    to: { table: row.to_table, columns: row.to_columns },
  }))
  return withBooks(db, schema, catalog)
}
