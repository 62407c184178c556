import { sql, type SQL } from 'drizzle-orm'
import { dayText, parseDay } from '../../../core/value/date'
import { momentText, parseMoment } from '../../../core/value/moment'
import { AdapterError, blockSize, type ForeignPart, type ForeignTable, type OpenForeign } from './adapter'
import { TableLoader } from './loader'
import { namesOf, tableOf, type Target } from './target'

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
  /** the greatest value of it that was ever copied, where that is known */
  greatest: string | undefined
  told: (note: string) => void
}

/** The greatest value of a column of a table that is being made; nothing where it has none. */
export async function greatestOf(target: Target, place: SQL, column: string): Promise<string | undefined> {
  const [found] = await target.run(sql`select max(${sql.identifier(column)})::text as value from ${place}`)
  return typeof found?.value === 'string' ? found.value : undefined
}

/**
 * Makes a table of the copy what it is in the database: rows that are others since are read by the column that grows, and those that are
 * gone, or came with an old value of it, are known by all the keys of both, packed. Comes back with how many rows it has, and the greatest
 * value of the column. @throws AdapterError where the database did not hold still
 */
export async function bringUpToDate({
  open,
  target,
  table,
  column,
  told,
  ...before
}: Change): Promise<{ rows: number; greatest: string | undefined }> {
  const key = wholeKey(table)!
  const own = tableOf(target, table.name)
  const keyName = sql.identifier(key)
  const wide = table.columns.find(each => each.name === key)?.kept === 'numeric(20,0)'
  const number = wide ? sql`${keyName}` : sql`${keyName}::bigint`
  const [changed, theirs, differing, leaving] = ['changed', 'theirs', 'differing', 'leaving'].map(
    name => sql`pg_temp.${sql.identifier(name)}`,
  ) as [SQL, SQL, SQL, SQL]
  // the database reads while the engine still begins: what is asked of that is done in its order
  const begun = begin()
  begun.catch(() => {})
  const known = before.greatest ?? (await greatestOf(target, own, column))
  await readInto(new TableLoader(target, table.name, changed), known === undefined ? undefined : { column, from: readAgainFrom(known) })
  const there = await readBlocks()
  await begun
  await compareKeys()
  const missing = await target.run(
    sql`select ${keyName}::text as key from (${keysIn(sql`theirs & ~here`)}) as missing
        where not exists (select 1 from ${changed} as other where other.${keyName} = missing.${keyName})`,
  )
  await target.run(sql`delete from ${own} as kept using ${leaving} as other where kept.${keyName} = other.${keyName}`)
  const names = namesOf(table.columns.map(each => each.name))
  await target.run(sql`insert into ${own} (${names}) select ${names} from ${changed}`)
  const late = new TableLoader(target, table.name)
  for (let at = 0; at < missing.length; at += keysAtOnce)
    await readInto(late, { key, of: missing.slice(at, at + keysAtOnce).map(row => String(row.key)) })
  // keys of neither but both are the same now: as many means that they are
  const [counted] = await target.run(
    sql`select (select count(*) from ${own})::text as rows, (select count(*) from ${leaving})::text as others`,
  )
  if (Number(counted!.rows) !== there)
    throw new AdapterError(`The keys of “${table.name}” differ from those of the database after the refresh; have it copied whole.`)
  if (Number(counted!.others) + missing.length > there / 10) await target.run(sql`analyze ${own}`)
  return { rows: there, greatest: laterOf(await greatestOf(target, changed, column), known) }

  /** Tables beside that live as long as the connection. */
  async function begin(): Promise<void> {
    const made: [SQL, SQL][] = [
      [changed, sql`*`],
      [theirs, sql`${number} as block, 0::bigint as present`],
      [differing, sql`${number} as block, 0::bigint as theirs, 0::bigint as here`],
      [leaving, sql`${keyName}`],
    ]
    await Promise.all([
      // single rows of a large table are found by its key
      target.run(sql`set random_page_cost = 1.1`),
      ...made.flatMap(([place, columns]) => [
        target.run(sql`drop table if exists ${place}`),
        target.run(sql`create table ${place} as select ${columns} from ${own} with no data`),
      ]),
    ])
  }

  async function readInto(loader: TableLoader, part?: ForeignPart): Promise<void> {
    await open.read(table, rows => handed(loader, rows), told, part)
    await loader.hand()
  }

  /** All keys of the database, packed. Comes back with how many they are. */
  async function readBlocks(): Promise<number> {
    const loader = new TableLoader(target, table.name, theirs)
    let keys = 0
    await open.blocks!(table, key, blocks => {
      for (const [, present] of blocks) keys += bitsOf(Number(present))
      return handed(loader, blocks)
    })
    await loader.hand()
    return keys
  }

  /** Fills the tables of blocks that are not the same there and here, and of keys whose rows leave: they are gone, or others. */
  async function compareKeys(): Promise<void> {
    const size = sql.raw(String(blockSize))
    const [block, place] = wide
      ? [sql`div(${number}, ${size})`, sql`mod(${number}, ${size})`]
      : [sql`(${number} >> 5)`, sql`(${number} & 31)`]
    await target.run(
      sql`insert into ${differing} select block, coalesce(other.present, 0), coalesce(kept.present, 0) from ${theirs} as other full join
          (select ${block} as block, bit_or(1::bigint << ${place}::integer) as present from ${own} group by 1) as kept using (block)
          where other.present is distinct from kept.present`,
    )
    await target.run(sql`insert into ${leaving} select ${keyName} from ${changed} union ${keysIn(sql`here & ~theirs`)}`)
    await target.run(sql`analyze ${leaving}`)
  }

  /** The keys whose bits an expression over blocks that differ sets. */
  function keysIn(bits: SQL): SQL {
    return sql`select block * ${sql.raw(String(blockSize))} + place as ${keyName} from ${differing},
      generate_series(0, ${sql.raw(String(blockSize - 1))}) as place where ((${bits}) >> place) & 1 = 1`
  }
}

async function handed(loader: TableLoader, rows: readonly (readonly (string | null)[])[]): Promise<void> {
  for (const row of rows) loader.add(row)
  await loader.drained()
}

/** How many bits of a number of up to 32 are set. */
function bitsOf(number: number): number {
  let left = number >>> 0
  let bits = 0
  for (; left; bits++) left = (left & (left - 1)) >>> 0
  return bits
}

/** The later of two values of a column that grows, as they are written. */
function laterOf(a: string | undefined, b: string | undefined): string | undefined {
  if (a === undefined || b === undefined) return a ?? b
  const [first, second] = [a, b].map(each => (/\d[ T]\d/.test(each) ? parseMoment(each) : parseDay(each)))
  if (first !== undefined && second !== undefined) return first > second ? a : b
  return BigInt(a.replace(/\.\d*$/, '')) > BigInt(b.replace(/\.\d*$/, '')) ? a : b
}
