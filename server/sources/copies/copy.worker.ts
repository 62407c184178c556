import { createHash } from 'node:crypto'
import { parentPort, workerData } from 'node:worker_threads'
import { sql } from 'drizzle-orm'
import { machineSentence } from '../../failures'
import type { TakenTable } from '../files/take'
import { AdapterError, type Foreign, type ForeignTable, type OpenForeign, valueTypeOf } from './adapter'
import { adapterNamed } from './adapters'
import { makeTablesAside } from './aside'
import { bringUpToDate, greatestOf, whyWhole } from './changed'
import { TableLoader } from './loader'
import type { KeptTable, Place } from './place'
import { KeepingError, namesOf, tableOf, type Target } from './target'

/** What the thread is given: a database that is looked at, or copied to a place. */
export interface CopyOrder {
  kind: string
  address: string
  password?: string
  /** where the copy is made; without it only looked */
  place?: Place
  /** tables that are wanted; without them, all */
  tables?: string[]
  /** columns that grow with each change, by their tables: only what is other since is copied */
  grows?: Record<string, string>
  /** the generation before, and what its tables were copied as */
  from?: { place: Place; tables: Record<string, KeptTable> }
}

/** A table that was copied; `shape` tells apart what was copied as other columns. */
export interface CopiedTable extends TakenTable, Pick<KeptTable, 'grown'> {
  shape: string
}

export type CopyAnswer =
  | { kind: 'progress'; table: string; rows: number; of: number }
  | { kind: 'looked'; foreign: Foreign }
  | { kind: 'copied'; tables: CopiedTable[] }
  | { kind: 'failed'; sentence: string }

/** Rows after which progress is told. */
const step = 20_000

const order = workerData as CopyOrder
const post = (answer: CopyAnswer) => parentPort!.postMessage(answer)

const shapeOf = ({ columns, key }: ForeignTable) =>
  createHash('sha256')
    .update(JSON.stringify([columns.map(({ name, kept, required }) => [name, kept, required]), key]))
    .digest('hex')
    .slice(0, 16)

/** The tables that are wanted. @throws AdapterError */
function wantedOf(foreign: Foreign): ForeignTable[] {
  const missing = order.tables?.find(name => !foreign.tables.some(table => table.name === name))
  if (missing !== undefined) throw new AdapterError(`There is no table “${missing}” that may be read; leave it out.`)
  const wanted = foreign.tables.filter(table => order.tables?.includes(table.name) ?? true)
  if (!wanted.length) throw new AdapterError('There is no table in the database that may be read; have its administrator allow some.')
  for (const [name, column] of Object.entries(order.grows ?? {})) {
    const table = wanted.find(each => each.name === name)
    const why = table ? whyWhole(table, column) : `There is no table “${name}” among those that are copied.`
    if (why) throw new AdapterError(why)
  }
  return wanted
}

/** Tells how many rows have been read in all. */
function teller(of: number): (table: string, rows: number) => void {
  let done = 0
  let told = 0
  return (table, rows) => {
    done += rows
    if (done - told < step) return
    told = done
    post({ kind: 'progress', table, rows: done, of })
  }
}

async function copyWhole(open: OpenForeign, target: Target, table: ForeignTable, tell: (rows: number) => void): Promise<CopiedTable> {
  const problems = [...table.notes]
  const loader = new TableLoader(target, table.name)
  await loader.create(table.columns.map(({ name, kept, required }) => ({ name, type: sql.raw(kept), required })))
  await open.read(
    table,
    async rows => {
      for (const row of rows) loader.add(row)
      tell(rows.length)
      await loader.drained()
    },
    note => problems.push(note),
  )
  await loader.hand()
  if (table.key.length) await loader.key(table.key)
  if (table.comment) await loader.comment(undefined, table.comment)
  for (const { name, comment } of table.columns) if (comment) await loader.comment(name, comment)
  await loader.analyze()
  const column = order.grows?.[table.name]
  const to = column === undefined ? undefined : await greatestOf(target, loader.name, column)
  return copied(table, loader.rows, to, problems)
}

const copied = (table: ForeignTable, rows: number, to: string | undefined, problems: string[]): CopiedTable => ({
  name: table.name,
  rows,
  columns: table.columns.map(({ name, kept }) => ({ name, title: name, type: valueTypeOf(kept) })),
  key: table.key,
  problems,
  shape: shapeOf(table),
  ...(to === undefined ? {} : { grown: { column: order.grows![table.name]!, to } }),
})

/** Keys that point from one copied table to another; what was true there at one moment need not be checked again. */
async function relate(target: Target, foreign: Foreign, wanted: readonly ForeignTable[]): Promise<void> {
  for (const { name, from, to } of foreign.keys) {
    const known = [from, to].every(end => {
      const table = wanted.find(each => each.name === end.table)
      return table && end.columns.every(column => table.columns.some(each => each.name === column))
    })
    const aim = wanted.find(each => each.name === to.table)
    if (!known || !aim || [...to.columns].sort().join() !== [...aim.key].sort().join()) continue
    const added = sql`alter table ${tableOf(target, from.table)} add constraint ${sql.identifier(name)}`
    await target.run(
      sql`${added} foreign key (${namesOf(from.columns)}) references ${tableOf(target, to.table)} (${namesOf(to.columns)}) not valid`,
    )
  }
}

/** All that is wanted of a database, at one moment. */
async function copy(): Promise<void> {
  const open = await adapterNamed(order.kind)!.open(order.address, order.password)
  try {
    const foreign = await open.look()
    const { place, from } = order
    if (!place) return post({ kind: 'looked', foreign })
    const wanted = wantedOf(foreign)
    const tell = teller(wanted.reduce((sum, table) => sum + table.rows, 0))
    const taken: CopiedTable[] = []
    // those that are there already, as they are copied now
    const changing = wanted.filter(
      table =>
        open.blocks && from?.place.kind === place.kind && order.grows?.[table.name] && from.tables[table.name]?.shape === shapeOf(table),
    )
    await makeTablesAside(
      place,
      async target => {
        for (const table of wanted) {
          if (!changing.includes(table)) {
            taken.push(await copyWhole(open, target, table, rows => tell(table.name, rows)))
            continue
          }
          const problems = [...table.notes]
          const told = (note: string) => problems.push(note)
          const column = order.grows![table.name]!
          const { grown } = from!.tables[table.name]!
          const known = grown?.column === column ? grown.to : undefined
          const { rows, greatest } = await bringUpToDate({ open, target, table, column, greatest: known, told })
          tell(table.name, table.rows)
          taken.push(copied(table, rows, greatest, problems))
        }
        await relate(target, foreign, wanted)
      },
      changing.length ? { place: from!.place, tables: changing.map(table => table.name) } : undefined,
    )
    post({ kind: 'copied', tables: taken })
  } finally {
    await open.close()
  }
}

try {
  await copy()
} catch (error) {
  post({
    kind: 'failed',
    sentence:
      error instanceof AdapterError || error instanceof KeepingError
        ? error.message
        : (machineSentence(error) ?? `The database could not be copied: ${error instanceof Error ? error.message : String(error)}`),
  })
}
