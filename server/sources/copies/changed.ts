import { sql, type SQL } from 'drizzle-orm'
import { dayText, parseDay } from '../../../core/value/date'
import { momentText, parseMoment } from '../../../core/value/moment'
import { AdapterError, type ForeignTable, type KeyRange, type OpenForeign } from './adapter'
import { TableLoader } from './loader'
import { namesOf, tableOf, type Target } from './target'

/** Keys of a range that is counted and summed. */
const rangeSize = 10_000
/** Keys that are asked for at a time. */
const keysAtOnce = 1000
/** How far back a growing column is read again, since what was begun earlier may have been written later: hours, days, numbers. */
const overlap = { hours: 2, days: 1, numbers: 1000 }

/** The one whole number that is a table's key; nothing where it has another. */
export function wholeKey({ key, columns }: ForeignTable): string | undefined {
  const kept = key.length === 1 ? columns.find(each => each.name === key[0])?.kept : undefined
  return kept === 'integer' || kept === 'bigint' || kept === 'numeric(20,0)' ? key[0] : undefined
}

/** Why a table cannot be refreshed by a column that grows; nothing where it can. */
export function whyWhole(table: ForeignTable, column: string): string | undefined {
  const kept = table.columns.find(each => each.name === column)?.kept
  if (!kept) return `“${table.name}” has no column “${column}” that is copied; name one that grows with each change.`
  if (kept === 'text' || kept === 'boolean')
    return `“${column}” of “${table.name}” does not grow; name a number, a date or a time that does with each change.`
  if (!wholeKey(table)) return `“${table.name}” has no key of one whole number, by which changed rows are known; have it copied whole.`
  return undefined
}

/** From where a column is read again, by the greatest value that is kept of it. */
export function readAgainFrom(greatest: string): string {
  const moment = /\d[ T]\d/.test(greatest) ? parseMoment(greatest) : undefined
  if (moment !== undefined) return momentText(moment - BigInt(overlap.hours) * 3_600_000_000n)
  const day = parseDay(greatest)
  if (day !== undefined) return dayText(day - overlap.days)
  return String(BigInt(greatest.replace(/\.\d*$/, '')) - BigInt(overlap.numbers))
}

interface Change {
  open: OpenForeign
  target: Target
  table: ForeignTable
  /** the column that grows */
  column: string
  told: (note: string) => void
}

/** Makes a table of the copy what it is in the database, by its rows that are others since. Comes back with how many rows it has. */
export async function bringUpToDate({ open, target, table, column, told }: Change): Promise<number> {
  const key = wholeKey(table)!
  const own = tableOf(target, table.name)
  const keyName = sql.identifier(key)
  await addChanged()
  // all of it is of one moment: what is there need not be asked twice
  const theirs = await open.ranges!(table, key, rangeSize)
  const differing = differingRanges(theirs, await rangesHere(target, table, key))
  if (differing.length) await sweep(differing)
  const left = differing.length ? differingRanges(theirs, await rangesHere(target, table, key)) : []
  if (left.length)
    throw new AdapterError(`The keys of “${table.name}” differ from those of the database after the refresh; have it copied whole.`)
  await target.run(sql`analyze ${own}`)
  const [counted] = await target.run(sql`select count(*)::text as rows from ${own}`)
  return Number(counted!.rows)

  /** A table beside that lives as long as the connection. */
  async function beside(name: string, columns: SQL): Promise<SQL> {
    const place = sql`pg_temp.${sql.identifier(name)}`
    await target.run(sql`drop table if exists ${place}`)
    await target.run(sql`create temporary table ${sql.identifier(name)} as select ${columns} from ${own} with no data`)
    return place
  }

  async function addChanged(): Promise<void> {
    const [greatest] = await target.run(sql`select max(${sql.identifier(column)})::text as value from ${own}`)
    const changed = await beside('changed', sql`*`)
    const loader = new TableLoader(target, table.name, changed)
    const value = greatest?.value
    await open.read(
      table,
      rows => handed(loader, rows),
      told,
      typeof value === 'string' ? { column, from: readAgainFrom(value) } : undefined,
    )
    await loader.hand()
    await target.run(sql`delete from ${own} as kept using ${changed} as other where kept.${keyName} = other.${keyName}`)
    const names = namesOf(table.columns.map(each => each.name))
    await target.run(sql`insert into ${own} (${names}) select ${names} from ${changed}`)
  }

  /** Keys of ranges that differ: those that are gone go, and those that are missing come. */
  async function sweep(ranges: readonly string[]): Promise<void> {
    const keys = await beside('keys', sql`${keyName}`)
    const loader = new TableLoader(target, table.name, keys)
    await open.read(table, rows => handed(loader, rows), told, { key, size: rangeSize, ranges })
    await loader.hand()
    await target.run(sql`create unique index on ${keys} (${keyName})`)
    await target.run(sql`analyze ${keys}`)
    await target.run(
      sql`delete from ${own} as kept where ${rangeOf(sql`kept.${keyName}`, isWide(table, key))} = any(${`{${ranges.join(',')}}`}::numeric[])
          and not exists (select 1 from ${keys} as other where other.${keyName} = kept.${keyName})`,
    )
    const missing = await target.run(
      sql`select other.${keyName}::text as key from ${keys} as other where not exists (select 1 from ${own} as kept
          where kept.${keyName} = other.${keyName})`,
    )
    const fill = new TableLoader(target, table.name)
    for (let at = 0; at < missing.length; at += keysAtOnce) {
      const of = missing.slice(at, at + keysAtOnce).map(row => String(row.key))
      await open.read(table, rows => handed(fill, rows), told, { key, of })
    }
    await fill.hand()
  }
}

async function handed(loader: TableLoader, rows: readonly (readonly (string | null)[])[]): Promise<void> {
  for (const row of rows) loader.add(row)
  await loader.drained()
}

/** The range of a key, as `ranges` of an adapter counts them; numbers of eight bytes are divided as such, which is much faster. */
const rangeOf = (key: SQL, wide: boolean) =>
  wide ? sql`div(${key}, ${sql.raw(String(rangeSize))})` : sql`(${key} / ${sql.raw(String(rangeSize))})`

const isWide = ({ columns }: ForeignTable, key: string) => columns.find(each => each.name === key)?.kept === 'numeric(20,0)'

/** Keys of the copy by their ranges. */
async function rangesHere(target: Target, table: ForeignTable, key: string): Promise<KeyRange[]> {
  const wide = isWide(table, key)
  const name = wide ? sql`${sql.identifier(key)}` : sql`${sql.identifier(key)}::bigint`
  const rest = wide ? sql`mod(${name}, 9973)` : sql`(${name} % 9973)`
  const rows = await target.run(
    sql`select ${rangeOf(name, wide)}::text as range, count(*)::text as count, sum(${name})::text as sum,
        sum(${rest} * ${rest})::text as mixed from ${tableOf(target, table.name)} group by 1`,
  )
  return rows as unknown as KeyRange[]
}

/** Ranges whose keys are not the same there and here. */
function differingRanges(theirs: readonly KeyRange[], here: readonly KeyRange[]): string[] {
  const written = ({ count, sum, mixed }: KeyRange) => [count, sum, mixed].join(' ')
  const known = new Map(here.map(each => [each.range, written(each)]))
  const differing: string[] = []
  for (const range of theirs) {
    if (known.get(range.range) !== written(range)) differing.push(range.range)
    known.delete(range.range)
  }
  return [...differing, ...known.keys()]
}
