import type { PGlite } from '@electric-sql/pglite'
import type { Catalog } from '../../../core/books/catalog'
import type { CatalogColumn } from '../../../core/catalog/types'
import type { ValueType } from '../../../core/value/value'
import { type FiscalCalendar, periodCode } from '../../../core/books/calendar'
import { type ChartRow, ledgerWords } from '../../../core/books/chart'
import type { LedgerMap } from '../../../core/books/ledger'
import { proposeLedger } from '../../../core/books/propose'
import { chartQuery, unitsQuery, versionsQuery } from '../../../core/sql/ledger'
import { parseDay } from '../../../core/value/date'

const startNames = /^(starts?_on|start_date|date_from|valid_from|from_date|begins?_on)$/
const endNames = /^(ends?_on|end_date|date_to|valid_to|to_date)$/

/**
 * The fiscal calendar, where a table of periods is found: it has a first and a last day, a number within its year, and points at a
 * table of years (or names the year itself).
 */
async function readCalendar(db: Pick<PGlite, 'query'>, schema: string, catalog: Catalog): Promise<FiscalCalendar | undefined> {
  const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`
  for (const table of catalog.tables) {
    if (!/period/i.test(table.name)) continue
    const find = (test: RegExp, type: ValueType) => table.columns.find(column => column.type === type && test.test(column.name))?.name
    const [first, last, number] = [find(startNames, 'date'), find(endNames, 'date'), find(/(^|_)(number|no|period)$/, 'number')]
    const year = table.columns.find(column => column.type === 'number' && /year/.test(column.name))?.name
    if (!first || !last || !number || !year) continue
    const [name, adjustment] = [find(/name|label/, 'text') ?? number, find(/adjust/, 'boolean')]
    const key = catalog.foreignKeys.find(
      each => each.from.table === table.name && each.from.columns.length === 1 && each.from.columns[0] === year,
    )
    const yearName =
      key &&
      catalog.tables
        .find(each => each.name === key.to.table)
        ?.columns.find(column => column.type === 'text' && /name|label/.test(column.name))?.name
    const { rows } = await db.query<{
      year: number
      number: number
      year_name: string
      name: string
      first: string
      last: string
      adjustment: boolean
    }>(`
      select p.${quoted(year)}::int as year, p.${quoted(number)}::int as number,
      ${yearName ? `y.${quoted(yearName)}` : `p.${quoted(year)}`}::text as year_name, p.${quoted(name)}::text as name,
             p.${quoted(first)}::text as first, p.${quoted(last)}::text as last,
             ${adjustment ? `p.${quoted(adjustment)}` : 'false'} as adjustment
      from ${quoted(schema)}.${quoted(table.name)} p
      ${
        key && yearName
          ? `left join ${quoted(schema)}.${quoted(key.to.table)} y on y.${quoted(key.to.columns[0]!)} =
        p.${quoted(year)}`
          : ''
      }
      where p.${quoted(first)} is not null and p.${quoted(last)} is not null order by 1,
      ${adjustment ? `p.${quoted(adjustment)}` : '7'}, 2 limit 5000`)
    if (rows.length)
      return {
        periods: rows.map(row => ({
          code: periodCode(row.year, row.number),
          year: row.year_name,
          number: row.number,
          name: row.name,
          start: parseDay(row.first)!,
          end: parseDay(row.last)!,
          adjustment: row.adjustment,
        })),
      }
  }
  return undefined
}

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
      ...columnType(row.type_name),
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
  const calendar = await readCalendar(db, schema, catalog)
  const ledger = await readLedger(db, schema, catalog)
  const posted = ledger && (await readPosted(db, schema, ledger))
  return { ...catalog, ...(calendar ? { calendar } : {}), ...(ledger ? { ledger } : {}), ...(posted ? { posted } : {}) }
}

/**
 * The books of a source: what tables and names tell, and from the rows what its words for types of accounts mean and where results are
 * kept.
 */
async function readLedger(db: Pick<PGlite, 'query'>, schema: string, catalog: Catalog): Promise<LedgerMap | undefined> {
  const tables = proposeLedger(catalog)
  if (!tables) return undefined
  const { text, values } = chartQuery(tables.accounts, schema)
  const { rows } = await db.query<ChartRow>(text, values)
  const words = ledgerWords(rows)
  if (!words) return undefined
  const found: LedgerMap = { ...tables, ...words }
  for (const key of ['branches', 'departments'] as const) {
    const unit = found[key]
    if (!unit) continue
    const { text: own, values: bound } = unitsQuery(unit, schema)
    found[key] = { ...unit, units: (await db.query<{ code: string; name: string }>(own, bound)).rows }
  }
  if (found.budgets?.version) {
    const { text: own, values: bound } = versionsQuery(found.budgets, schema)
    found.versions = (await db.query<{ version: string }>(own, bound)).rows.map(row => row.version)
  }
  return found
}

/** First and last day of the postings. */
async function readPosted(db: Pick<PGlite, 'query'>, schema: string, map: LedgerMap): Promise<Catalog['posted']> {
  const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`
  const date = quoted(map.date)
  const {
    rows: [row],
  } = await db.query<{ first: string | null; last: string | null }>(
    `select min(${date})::text as first, max(${date})::text as last from
      ${quoted(schema)}.${quoted(map.journals?.table ?? map.lines.table)}`,
  )
  return row?.first && row.last ? { first: parseDay(row.first)!, last: parseDay(row.last)! } : undefined
}

/** What a type of the database is to us. */
export function columnType(name: string): { type: ValueType; scale?: number } {
  if (/^(smallint|integer|bigint)$/.test(name)) return { type: 'number', scale: 0 }
  const numeric = /^numeric\(\d+,(\d+)\)$/.exec(name)
  if (numeric) return { type: 'number', scale: Number(numeric[1]) }
  if (/^(numeric|real|double precision)/.test(name)) return { type: 'number' }
  if (name === 'date') return { type: 'date' }
  if (name === 'boolean') return { type: 'boolean' }
  return { type: 'text' }
}
