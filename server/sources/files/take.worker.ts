import { statSync } from 'node:fs'
import { parentPort, workerData } from 'node:worker_threads'
import type { UnderstoodTable } from '../../../core/api/intake'
import { cellText } from '../../../core/intake/cells'
import { isRow } from '../../../core/intake/understand'
import { machineSentence } from '../../failures'
import type { Place } from '../copies/place'
import { makeTablesAside } from '../copies/aside'
import { KeepingError } from '../copies/target'
import { openFile } from './kinds'
import { FileFault } from './kinds/kind'
import { type Said, tableNameOf, type TakenTable, takeFile, type UnderstoodFile, understandFile } from './take'

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

/** What the thread is given: a file that is looked at, or those that become the tables of a place. */
export type TakeOrder = { task: 'understand'; file: GivenFile } | { task: 'take'; place: Place; files: GivenFile[]; from?: Before }

/** The generation before, all of whose tables stay that no file takes the place of. */
interface Before {
  place: Place
  tables: string[]
}

/** A table of a file as it was taken in, with where in which file it stood. */
export interface FileTable extends TakenTable {
  file: string
  sheet?: string
}

export type TakeAnswer =
  /** how far it has come: of the bytes of all files, which are read twice */
  | { kind: 'progress'; done: number; of: number; file: string }
  | { kind: 'understood'; tables: UnderstoodTable[] }
  | { kind: 'taken'; tables: FileTable[] }
  | { kind: 'failed'; sentence: string }

/** Rows that are shown of a file before it is taken in. */
const shown = 100
/** Bytes after which progress is told. */
const step = 4_000_000

const order = workerData as TakeOrder
const post = (answer: TakeAnswer) => parentPort!.postMessage(answer)

/** Tells how far the reading of a file has come: of one that is read but once, each byte counts for both times. */
function teller(file: string, before: number, of: number, times = 1): (bytes: number) => void {
  let told = 0
  return bytes => {
    if (bytes - told < step) return
    told = bytes
    post({ kind: 'progress', done: before + bytes * times, of, file })
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

/** What people see in a file: its tables, but for those that are hidden. */
const seenIn = (tables: readonly { name: string; hidden?: boolean | undefined }[], sheet: string | undefined) =>
  sheet === undefined ? tables.filter(each => !each.hidden).map(each => each.name) : [sheet]

/** The tables that files become. */
async function namesOfAll(files: readonly GivenFile[]): Promise<string[]> {
  const names: string[] = []
  for (const file of files) {
    const opened = await openFile(file.path, file.name)
    for (const sheet of seenIn(opened.tables, file.sheet)) names.push(tableNameOf({ name: file.name, sheet }, names, file.table))
    opened.close?.()
  }
  return names
}

async function take(place: Place, files: readonly GivenFile[], before: Before | undefined): Promise<void> {
  const sizes = files.map(file => statSync(file.path).size)
  const of = sizes.reduce((sum, size) => sum + size, 0) * 2
  const taken: FileTable[] = []
  const replaced = before ? await namesOfAll(files) : []
  await makeTablesAside(
    place,
    async target => {
      let read = 0
      for (const [at, file] of files.entries()) {
        const opened = await openFile(file.path, file.name)
        try {
          const sheets = seenIn(opened.tables, file.sheet)
          for (const sheet of sheets) {
            try {
              const table = await takeFile(
                target,
                opened,
                { name: file.name, sheet },
                taken.map(each => each.name),
                {
                  ...file,
                  first: { progress: teller(file.name, read, of) },
                  second: { progress: teller(file.name, read + sizes[at]!, of) },
                  once: { progress: teller(file.name, read, of, 2) },
                },
              )
              taken.push({ ...table, file: file.name, ...(sheet ? { sheet } : {}) })
            } catch (error) {
              // a sheet without rows is no fault of a workbook that has others, unless its table would go by it
              const empty = error instanceof FileFault && /holds no rows/.test(error.message) && sheets.length > 1
              const missed = before?.tables.includes(tableNameOf({ name: file.name, sheet }, [], file.table))
              if (!empty || missed || file.sheet !== undefined) throw error
            }
          }
        } finally {
          opened.close?.()
        }
        read += sizes[at]! * 2
      }
      if (!taken.length) throw new FileFault('There is no table in these files; choose others.')
    },
    before && { place: before.place, tables: before.tables.filter(each => !replaced.includes(each)) },
  )
  post({ kind: 'taken', tables: taken })
}

try {
  if (order.task === 'understand') await understand(order.file)
  else await take(order.place, order.files, order.from)
} catch (error) {
  post({
    kind: 'failed',
    sentence:
      error instanceof FileFault || error instanceof KeepingError
        ? error.message
        : (machineSentence(error) ?? `The files could not be read: ${error instanceof Error ? error.message : String(error)}`),
  })
}
