import { quotedName as quoted } from '../../../core/sql/statementParts'
import type { Catalog } from '../../../core/books/catalog'
import type { ValueType } from '../../../core/value/value'
import { type FiscalCalendar, periodCode } from '../../../core/books/calendar'
import { type ChartRow, ledgerWords } from '../../../core/books/chart'
import type { LedgerMap } from '../../../core/books/ledger'
import { proposeLedger } from '../../../core/books/propose'
import { chartQuery, unitsQuery, versionsQuery } from '../../../core/sql/ledger'
import { parseDay } from '../../../core/value/date'

/** Whoever can be asked: rows by the names of their columns. */
export interface Asked {
  query: <Row>(text: string, values?: unknown[]) => Promise<{ rows: Row[] }>
}

/** A catalog with what tables, names and rows tell of the books: periods, chart of accounts, journals, first and last posting. */
export async function withBooks(db: Asked, schema: string, catalog: Catalog): Promise<Catalog> {
  const calendar = await readCalendar(db, schema, catalog)
  const ledger = await readLedger(db, schema, catalog)
  const posted = ledger && (await readPosted(db, schema, ledger))
  return { ...catalog, ...(calendar ? { calendar } : {}), ...(ledger ? { ledger } : {}), ...(posted ? { posted } : {}) }
}

const startNames = /^(starts?_on|start_date|date_from|valid_from|from_date|begins?_on)$/
const endNames = /^(ends?_on|end_date|date_to|valid_to|to_date)$/

/**
 * The fiscal calendar, where a table of periods is found: it has a first and a last day, a number within its year, and points at a
 * table of years (or names the year itself).
 */
async function readCalendar(db: Asked, schema: string, catalog: Catalog): Promise<FiscalCalendar | undefined> {
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
      from ${quoted(schema)}.${quoted(table.name)} as p
      ${
        key && yearName
          ? `left join ${quoted(schema)}.${quoted(key.to.table)} as y on y.${quoted(key.to.columns[0]!)} =
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
        from: {
          [table.name]: [year, number, name, first, last, ...(adjustment ? [adjustment] : [])],
          ...(key && yearName ? { [key.to.table]: [key.to.columns[0]!, yearName] } : {}),
        },
      }
  }
  return undefined
}

/**
 * The books of a source: what tables and names tell, and from the rows what its words for types of accounts mean and where results are
 * kept.
 */
async function readLedger(db: Asked, schema: string, catalog: Catalog): Promise<LedgerMap | undefined> {
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
async function readPosted(db: Asked, schema: string, map: LedgerMap): Promise<Catalog['posted']> {
  const date = quoted(map.date)
  const {
    rows: [row],
  } = await db.query<{ first: string | null; last: string | null }>(
    `select min(${date})::text as first, max(${date})::text as last from
      ${quoted(schema)}.${quoted(map.journals?.table ?? map.lines.table)}`,
  )
  return row?.first && row.last ? { first: parseDay(row.first)!, last: parseDay(row.last)! } : undefined
}
