import { parentPort, workerData } from 'node:worker_threads'
import { sql } from 'drizzle-orm'
import { bound } from '../../../core/catalog/dialect'
import { makeFolder } from '../../engine/durable'
import { machineSentence } from '../../failures'
import type { TakenTable } from '../files/take'
import { AdapterError, type Foreign, valueTypeOf } from './adapter'
import { adapterNamed } from './adapters'
import { emptyEngine } from './emptyEngine'
import { TableLoader } from './loader'

/** What the thread is given: a database that is looked at, or copied into a folder. */
export interface CopyOrder {
  kind: string
  address: string
  password?: string
  /** where the copy is made; without it only looked */
  folder?: string
  schema: string
  /** tables that are wanted; without them, all */
  tables?: string[]
}

export type CopyAnswer =
  | { kind: 'progress'; table: string; rows: number; of: number }
  | { kind: 'looked'; foreign: Foreign }
  | { kind: 'copied'; tables: TakenTable[] }
  | { kind: 'failed'; sentence: string }

/** Rows after which progress is told. */
const step = 20_000

const order = workerData as CopyOrder
const post = (answer: CopyAnswer) => parentPort!.postMessage(answer)

/** All that is wanted of a database, at one moment. */
async function copy(): Promise<void> {
  const open = await adapterNamed(order.kind)!.open(order.address, order.password)
  try {
    const foreign = await open.look()
    if (!order.folder) return post({ kind: 'looked', foreign })
    const missing = order.tables?.find(name => !foreign.tables.some(table => table.name === name))
    if (missing !== undefined) throw new AdapterError(`There is no table “${missing}” that may be read; leave it out.`)
    const wanted = foreign.tables.filter(table => order.tables?.includes(table.name) ?? true)
    if (!wanted.length) throw new AdapterError('There is no table in the database that may be read; have its administrator allow some.')
    const of = wanted.reduce((sum, table) => sum + table.rows, 0)
    const taken: TakenTable[] = []
    await makeFolder(
      order.folder,
      async db => {
        await db.exec(bound(sql`create schema ${sql.identifier(order.schema)}`).text)
        let done = 0
        let told = 0
        for (const table of wanted) {
          const problems = [...table.notes]
          const loader = new TableLoader(db, order.schema, table.name)
          await loader.create(table.columns.map(({ name, kept, required }) => ({ name, type: sql.raw(kept), required })))
          await open.read(
            table,
            async rows => {
              for (const row of rows) loader.add(row)
              done += rows.length
              await loader.drained()
              if (done - told < step) return
              told = done
              post({ kind: 'progress', table: table.name, rows: done, of })
            },
            note => problems.push(note),
          )
          await loader.hand()
          if (table.key.length) await loader.key(table.key)
          if (table.comment) await loader.comment(undefined, table.comment)
          for (const { name, comment } of table.columns) if (comment) await loader.comment(name, comment)
          await loader.analyze()
          taken.push({
            name: table.name,
            rows: loader.rows,
            columns: table.columns.map(({ name, kept }) => ({ name, title: name, type: valueTypeOf(kept) })),
            key: table.key,
            problems,
          })
        }
        // what was true there at one moment need not be checked again
        for (const { name, from, to } of foreign.keys) {
          const known = [from, to].every(end => {
            const table = wanted.find(each => each.name === end.table)
            return table && end.columns.every(column => table.columns.some(each => each.name === column))
          })
          const target = wanted.find(each => each.name === to.table)
          if (!known || !target || [...to.columns].sort().join() !== [...target.key].sort().join()) continue
          const names = (columns: readonly string[]) =>
            sql.join(
              columns.map(each => sql.identifier(each)),
              sql`, `,
            )
          const table = (own: string) => sql`${sql.identifier(order.schema)}.${sql.identifier(own)}`
          const added = sql`alter table ${table(from.table)} add constraint ${sql.identifier(name)}`
          const pointing = sql`foreign key (${names(from.columns)}) references ${table(to.table)} (${names(to.columns)}) not valid`
          await db.exec(bound(sql`${added} ${pointing}`).text)
        }
      },
      emptyEngine(order.folder),
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
      error instanceof AdapterError
        ? error.message
        : (machineSentence(error) ?? `The database could not be copied: ${error instanceof Error ? error.message : String(error)}`),
  })
}
