import { statSync } from 'node:fs'
import { parentPort, workerData } from 'node:worker_threads'
import type { UnderstoodTable } from '../../../core/api/intake'
import { cellText } from '../../../core/intake/cells'
import { isRow } from '../../../core/intake/understand'
import { makeFolder } from '../../engine/durable'
import { emptyEngine } from '../copies/emptyEngine'
import { machineSentence } from '../../failures'
import { openFile } from './kinds'
import { FileFault } from './kinds/kind'
import { type Said, type TakenTable, takeFile, type UnderstoodFile, understandFile } from './take'

/** A file as it lies on this machine. */
export interface BroughtPath {
  path: string
  name: string
}
/** A table of a file, and what was said of it. */
export interface GivenFile extends BroughtPath, Said {
  /** its name within the file; without one, all that a person sees in it become tables */
  sheet?: string
}

/** What the thread is given: a file that is looked at, or those that become the tables of a folder. */
export type TakeOrder = { task: 'understand'; file: GivenFile } | { task: 'take'; folder: string; schema: string; files: GivenFile[] }

export type TakeAnswer =
  /** how far it has come: of the bytes of all files, which are read twice */
  | { kind: 'progress'; done: number; of: number; file: string }
  | { kind: 'understood'; tables: UnderstoodTable[] }
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

/** The first rows of a table, as its file writes them. */
async function firstRows({ opened, sheet, proposed }: UnderstoodFile): Promise<string[][]> {
  const rows: string[][] = []
  const enough = new AbortController()
  await opened
    .rows(
      sheet,
      (cells, line) => {
        if (rows.length < shown && isRow(proposed, cells, line)) rows.push(cells.map(cell => cellText(cell).slice(0, 200)))
        if (rows.length >= shown) enough.abort()
      },
      { signal: enough.signal, drained: async () => enough.signal.throwIfAborted() },
    )
    .catch((error: unknown) => {
      if (!enough.signal.aborted) throw error
    })
  return rows
}

async function understand(file: GivenFile): Promise<void> {
  const { size } = statSync(file.path)
  const opened = await openFile(file.path, file.name)
  const tables: UnderstoodTable[] = []
  try {
    const wanted = opened.tables.filter(each => file.sheet === undefined || each.name === file.sheet)
    for (const { name: sheet, hidden } of wanted) {
      let understood: UnderstoodFile
      try {
        understood = await understandFile(
          opened,
          { name: file.name, sheet },
          tables.map(each => each.table),
          { ...file, progress: teller(file.name, 0, size) },
        )
      } catch (error) {
        // a sheet without rows is no fault of a workbook that has others
        if (wanted.length === 1 || !(error instanceof FileFault) || !/holds no rows/.test(error.message)) throw error
        continue
      }
      const { proposed } = understood
      tables.push({
        ...(sheet ? { sheet } : {}),
        ...(hidden ? { hidden } : {}),
        table: understood.table,
        written: understood.opened.written,
        titles: proposed.titles !== undefined,
        ...(proposed.titleLine === undefined ? {} : { titleLine: proposed.titleLine }),
        typed: opened.typed,
        totals: proposed.totals,
        columns: proposed.columns,
        rows: proposed.rows,
        notes: proposed.notes,
        first: await firstRows(understood),
      })
    }
    if (!tables.length) throw new FileFault(`“${file.name}” holds no rows; choose a file with a table in it.`)
  } finally {
    opened.close?.()
  }
  post({ kind: 'understood', tables })
}

async function take(folder: string, schema: string, files: readonly GivenFile[]): Promise<void> {
  const sizes = files.map(file => statSync(file.path).size)
  const of = sizes.reduce((sum, size) => sum + size, 0) * 2
  const taken: TakenTable[] = []
  await makeFolder(
    folder,
    async db => {
      await db.exec(`create schema "${schema.replaceAll('"', '""')}"`)
      let before = 0
      for (const [at, file] of files.entries()) {
        const opened = await openFile(file.path, file.name)
        try {
          const sheets = file.sheet === undefined ? opened.tables.filter(each => !each.hidden).map(each => each.name) : [file.sheet]
          for (const sheet of sheets) {
            let understood: UnderstoodFile
            try {
              understood = await understandFile(
                opened,
                { name: file.name, sheet },
                taken.map(table => table.name),
                { ...file, progress: teller(file.name, before, of) },
              )
            } catch (error) {
              if (file.sheet !== undefined || sheets.length === 1 || !(error instanceof FileFault) || !/holds no rows/.test(error.message))
                throw error
              continue
            }
            taken.push(await takeFile(db, schema, understood, { progress: teller(file.name, before + sizes[at]!, of) }))
          }
        } finally {
          opened.close?.()
        }
        before += sizes[at]! * 2
      }
      if (!taken.length) throw new FileFault('There is no table in these files; choose others.')
    },
    emptyEngine(folder),
  )
  post({ kind: 'taken', tables: taken })
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
