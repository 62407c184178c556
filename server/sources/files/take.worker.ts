import { statSync } from 'node:fs'
import { parentPort, workerData } from 'node:worker_threads'
import { readDelimited } from './delimitedFile'
import type { UnderstoodTable } from '../../../core/api/intake'
import { isRow } from '../../../core/intake/understand'
import { makeFolder } from '../../engine/durable'
import { machineSentence } from '../../failures'
import { FileFault, type Said, type TakenTable, takeFile, understandFile } from './take'

/** A file as it lies on this machine, and what was said of it. */
export interface GivenFile extends Said {
  path: string
  name: string
}

/** What the thread is given: files that are looked at, or that become the tables of a folder. */
export type TakeOrder = { task: 'understand'; file: GivenFile } | { task: 'take'; folder: string; schema: string; files: GivenFile[] }

export type TakeAnswer =
  /** how far it has come: of the bytes of all files, which are read twice */
  | { kind: 'progress'; done: number; of: number; file: string }
  | { kind: 'understood'; table: UnderstoodTable }
  | { kind: 'taken'; tables: TakenTable[] }
  | { kind: 'failed'; sentence: string }

/** Rows that are shown of a file before it is taken in. */
const shown = 100
/** Bytes after which progress is told. */
const step = 4_000_000

const order = workerData as TakeOrder
const post = (answer: TakeAnswer) => parentPort!.postMessage(answer)

/** Tells how far the reading of a file has come. */
function teller(file: string, before: number, of: number): (bytes: number) => void {
  let told = 0
  return bytes => {
    if (bytes - told < step) return
    told = bytes
    post({ kind: 'progress', done: before + bytes, of, file })
  }
}

async function understand(file: GivenFile): Promise<void> {
  const { size } = statSync(file.path)
  const { table, written, proposed } = await understandFile(file.path, [], { ...file, progress: teller(file.name, 0, size) })
  const rows: string[][] = []
  const enough = new AbortController()
  await readDelimited(
    file.path,
    written,
    (cells, line) => {
      if (rows.length < shown && isRow(proposed, cells, line)) rows.push(cells.map(cell => cell.slice(0, 200)))
      if (rows.length >= shown) enough.abort()
    },
    { signal: enough.signal },
  ).catch((error: unknown) => {
    if (!enough.signal.aborted) throw error
  })
  post({
    kind: 'understood',
    table: {
      table,
      ...written,
      titles: proposed.titles !== undefined,
      columns: proposed.columns,
      rows: proposed.rows,
      notes: proposed.notes,
      first: rows,
    },
  })
}

async function take(folder: string, schema: string, files: readonly GivenFile[]): Promise<void> {
  const sizes = files.map(file => statSync(file.path).size)
  const of = sizes.reduce((sum, size) => sum + size, 0) * 2
  const tables: TakenTable[] = []
  await makeFolder(folder, async db => {
    await db.exec(`create schema "${schema.replaceAll('"', '""')}"`)
    let before = 0
    for (const [at, file] of files.entries()) {
      const understood = await understandFile(
        file.path,
        tables.map(table => table.name),
        { ...file, progress: teller(file.name, before, of) },
      )
      tables.push(await takeFile(db, schema, understood, { progress: teller(file.name, before + sizes[at]!, of) }))
      before += sizes[at]! * 2
    }
  })
  post({ kind: 'taken', tables })
}

try {
  if (order.task === 'understand') await understand(order.file)
  else await take(order.folder, order.schema, order.files)
} catch (error) {
  post({
    kind: 'failed',
    sentence:
      error instanceof FileFault
        ? error.message
        : (machineSentence(error) ?? `The files could not be read: ${error instanceof Error ? error.message : String(error)}`),
  })
}
