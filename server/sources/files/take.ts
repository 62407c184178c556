import { basename, extname } from 'node:path'
import { sql, type SQL } from 'drizzle-orm'
import { readable } from '../../../core/catalog/types'
import { type Cell, cellText, type ColumnForm } from '../../../core/intake/cells'
import { converted, type Misfit } from '../../../core/intake/convert'
import { PlainRows } from '../../../core/intake/plainRows'
import { isRow, namesFor, type ProposedColumn, type ProposedTable, type SaidTable, Understanding } from '../../../core/intake/understand'
import { TableLoader } from '../copies/loader'
import { tableOf, type Target } from '../copies/target'
import { KeyLook } from './keyLook'
import { FileFault, type OpenedFile, type Reading } from './kinds/kind'

/** A table of a file as it was understood. */
export interface UnderstoodFile {
  opened: OpenedFile
  /** what people call the file, and the table in it where it holds several */
  name: string
  sheet: string
  /** the table that it becomes */
  table: string
  proposed: ProposedTable
}

/** What somebody said of a table of a file, against what was understood. */
export interface Said extends Pick<SaidTable, 'titles' | 'titleLine' | 'without'> {
  table?: string
  /** forms of columns, by their names */
  forms?: Record<string, ColumnForm>
}

/** What came of a table. */
export interface TakenTable {
  name: string
  rows: number
  columns: { name: string; title: string; type: string }[]
  key: string[]
  problems: string[]
}

/** Letters of a name of the database (PostgreSQL manual, section 4.1.1). */
const mostName = 55
/** Columns of a table (manual, appendix K: 1,600, fewer where they are wide). */
const mostColumns = 1500

/** A file whose rows cannot be read: one sentence. */
export function faultOf(error: unknown, name: string): FileFault {
  if (error instanceof FileFault) return error
  return new FileFault(`“${name}” cannot be read: ${error instanceof Error ? error.message : String(error)}`)
}

/** The table that a file, or a sheet of it, becomes: none of those that are taken. */
export function tableNameOf({ name, sheet }: { name: string; sheet: string }, taken: readonly string[], wanted?: string): string {
  const [base] = namesFor([wanted ?? (sheet || basename(name, extname(name)))])
  let table = base!.slice(0, mostName)
  for (let number = 2; taken.includes(table); number++) table = `${base!.slice(0, mostName)}_${number}`
  return table
}

/** What is looked for in a table of a file, by what is known and what somebody said of it. */
const understandingOf = (opened: OpenedFile, more: Said): Understanding =>
  new Understanding({
    typed: opened.typed,
    ...(opened.typed ? { titles: true } : {}),
    ...(opened.padded ? { padded: true } : {}),
    ...(more.titles === undefined ? {} : { titles: more.titles }),
    ...(more.titleLine === undefined ? {} : { titleLine: more.titleLine }),
    ...(more.without ? { without: more.without } : {}),
  })

/** What was understood, with what somebody said of its columns. @throws FileFault where it is no table */
function proposedBy(understanding: Understanding, { opened, name, sheet }: Sheet, more: Said): ProposedTable {
  const proposed = understanding.result()
  proposed.notes.push(...(opened.notes?.(sheet) ?? []))
  for (const column of proposed.columns) {
    const form = more.forms?.[column.name]
    if (!form || sameForm(form, column.form)) continue
    column.form = form
    column.notes = []
    // what was measured was measured for another form
    delete column.scale
    delete column.digits
  }
  if (proposed.columns.length > mostColumns)
    throw new FileFault(
      `“${name}” has ${proposed.columns.length.toLocaleString('en')} columns, and a table at most ${mostColumns.toLocaleString('en')}; ` +
        `leave some out in the file.`,
    )
  if (!proposed.columns.length)
    throw new FileFault(
      sheet
        ? `The sheet “${sheet}” of “${name}” holds no rows; leave it out, or choose another.`
        : `“${name}” holds no rows; choose a file with a table in it.`,
    )
  return proposed
}

/** A table of a file that is open. */
interface Sheet {
  opened: OpenedFile
  name: string
  sheet: string
}

/** Reads a table of a file whole and says what it holds. @throws FileFault, or the signal's reason */
export async function understandFile(
  opened: OpenedFile,
  { name, sheet }: { name: string; sheet: string },
  taken: readonly string[],
  more: Said & Reading = {},
): Promise<UnderstoodFile> {
  const table = tableNameOf({ name, sheet }, taken, more.table)
  const understanding = understandingOf(opened, more)
  try {
    await opened.rows(sheet, (cells, line) => understanding.row(cells, line), more)
  } catch (error) {
    const other = opened.otherwise?.(error)
    if (other) return understandFile(other, { name, sheet }, taken, more)
    if (more.signal?.aborted) throw error
    throw faultOf(error, name)
  }
  return { opened, name, sheet, table, proposed: proposedBy(understanding, { opened, name, sheet }, more) }
}

/** Rows by which a table is understood at first; what is longer is taken in while all of it is being understood. */
const firstLook = 20_000

/** What the first rows of a table say; nothing where it has no more than them, or they cannot be read this way. */
async function firstRowsSay({ opened, name, sheet }: Sheet, more: Said): Promise<ProposedTable | undefined> {
  const understanding = understandingOf(opened, more)
  const enough = new AbortController()
  let rows = 0
  try {
    await opened.rows(
      sheet,
      (cells, line) => {
        if (rows++ < firstLook) understanding.row(cells, line)
        else enough.abort()
      },
      { signal: enough.signal, drained: async () => enough.signal.throwIfAborted() },
    )
    return undefined
  } catch {
    return enough.signal.aborted ? proposedBy(understanding, { opened, name, sheet }, more) : undefined
  }
}

const typeOf = ({ form, scale, digits = 0 }: Pick<ProposedColumn, 'form' | 'scale' | 'digits'>): SQL => {
  switch (form.type) {
    case 'number':
      if (scale === undefined) return sql.raw('numeric')
      // whole numbers of up to 18 digits join and count fastest
      return scale === 0 && digits <= 18
        ? sql.raw(digits <= 9 ? 'integer' : 'bigint')
        : digits + scale <= 1000
          ? sql.raw(`numeric(${Math.max(1, digits + scale)},${scale})`)
          : sql.raw('numeric')
    case 'date':
      return sql.raw('date')
    case 'moment':
      return sql.raw('timestamp')
    case 'boolean':
      return sql.raw('boolean')
    case 'text':
      return sql.raw('text')
  }
}

/** Digits before the mark for which there is room in a column of which only the first rows are known. */
const roomyDigits = 15

/** What a column is taken as by its first rows, with room for more digits of the same kind. */
const roomy = (column: ProposedColumn): Pick<ProposedColumn, 'form' | 'scale' | 'digits'> =>
  column.form.type !== 'number' || column.scale === undefined
    ? column
    : { ...column, digits: column.scale ? Math.max(roomyDigits, column.digits ?? 0) : (column.digits ?? 0) > 6 ? 18 : 9 }

/** Do all rows of a column say what its first ones did, so that it was taken in as it is? */
const heldTrue = (first: ProposedColumn, all: ProposedColumn | undefined): boolean => {
  if (!all || first.name !== all.name || !sameForm(first.form, all.form) || first.scale !== all.scale) return false
  return (all.digits ?? 0) <= (roomy(first).digits ?? Infinity)
}

const sameForm = (a: ColumnForm, b: ColumnForm) => JSON.stringify(a) === JSON.stringify(b)

/** A table of a file with the columns that it has in the engine. */
interface Filling {
  target: Target
  file: UnderstoodFile
  /** what the columns are taken as */
  columns: readonly Pick<ProposedColumn, 'name' | 'title' | 'form' | 'scale' | 'digits'>[]
  keys: KeyLook
  /** whether all values have room in them is not known yet */
  guessed?: boolean
}

/** Has a number room in a column? */
function hasRoom(value: string, { digits = 0, scale = 0 }: Pick<ProposedColumn, 'digits' | 'scale'>): boolean {
  const mark = value.indexOf('.')
  const whole = (mark < 0 ? value.length : mark) - (value.charCodeAt(0) === 45 ? 1 : 0)
  return whole <= digits && (mark < 0 ? 0 : value.length - mark - 1) <= scale
}

/** The line in the file is the key where no column is one; it is called after the file, since it means nothing in another. */
const lineNameOf = (table: string, columns: readonly { name: string }[]) =>
  namesFor([...columns.map(each => each.name), `${table} line`]).at(-1)!

const calledOf = ({ name, sheet }: Pick<UnderstoodFile, 'name' | 'sheet'>) => (sheet ? `${name}, ${sheet}` : name)

/** Fills a table; comes back with what puts one row more into it. A value that does not fit is told by `onMisfit`. */
async function filling(
  { target, file, columns, keys, guessed = false }: Filling,
  onMisfit: (misfit: Misfit) => void,
): Promise<{ loader: TableLoader; add: (cells: Cell[], line: number) => void }> {
  const loader = new TableLoader(target, file.table)
  await loader.create([
    { name: lineNameOf(file.table, columns), type: sql`integer`, required: true },
    ...columns.map(each => ({ name: each.name, type: typeOf(each) })),
  ])
  const add = (cells: Cell[], line: number) => {
    // what a shorter row lacks is empty, and told; what a longer one has too much would be lost
    if (cells.length > columns.length)
      throw new FileFault(
        `Line ${line.toLocaleString('en')} of “${calledOf(file)}” has ${cells.length} cells where there are ${columns.length} ` +
          `columns; put text that holds the separator into quotes.`,
      )
    const values: (string | null)[] = new Array<string | null>(columns.length + 1)
    values[0] = String(line)
    for (let at = 0; at < columns.length; at++) {
      const column = columns[at]!
      const cell = cells[at] ?? ''
      let value = cellText(cell).includes('\0') ? undefined : converted(cell, column.form)
      if (guessed && value && column.form.type === 'number' && column.scale !== undefined && !hasRoom(value, column)) value = undefined
      if (value === undefined) onMisfit({ line, column: column.title, cell: cellText(cell).slice(0, 80) })
      values[at + 1] = value ?? null
    }
    keys.row(values)
    loader.add(values)
  }
  return { loader, add }
}

/** Makes a table of a file that was understood whole. @throws FileFault where a value does not fit, with its line */
async function takeUnderstood(target: Target, file: UnderstoodFile, more: Reading): Promise<TakenTable> {
  const { proposed } = file
  const misfits: Misfit[] = []
  const keys = new KeyLook(proposed.columns)
  const { loader, add } = await filling({ target, file, columns: proposed.columns, keys }, misfit => {
    if (misfits.length < 20) misfits.push(misfit)
  })
  await file.opened.rows(
    file.sheet,
    (cells, line) => {
      if (isRow(proposed, cells, line)) add(cells, line)
    },
    { ...more, drained: () => loader.drained() },
  )
  await loader.hand()
  if (misfits.length) {
    const [first] = misfits
    throw new FileFault(
      `“${first!.cell}” on line ${first!.line.toLocaleString('en')} of “${calledOf(file)}” does not fit the column ` +
        `“${first!.column}”; correct it in the file, or take the column as text.`,
    )
  }
  return finished(target, file, loader, keys)
}

/** The first rows did not say what all of them do. */
class GuessedWrong extends Error {}

/**
 * Makes a table of a file while it is being understood, by what its first rows say of it. Nothing where the rest says otherwise, which
 * leaves no table.
 */
async function takeByFirstRows(
  target: Target,
  own: Sheet & { table: string },
  first: ProposedTable,
  more: Said & Reading,
): Promise<TakenTable | undefined> {
  const { opened, name, sheet, table } = own
  const understanding = understandingOf(opened, more)
  const keys = new KeyLook(first.columns)
  const file: UnderstoodFile = { opened, name, sheet, table, proposed: first }
  try {
    const columns = first.columns.map(column => ({ ...column, ...roomy(column) }))
    const { loader, add } = await filling({ target, file, columns, keys, guessed: true }, () => {
      throw new GuessedWrong()
    })
    let plain: PlainRows | undefined
    /** rows go by their bytes once the key has seen enough of them */
    const plainly = (separator: string) => {
      const tallies = understanding.counts
      if (!keys.hasSeen || !tallies || tallies.length !== columns.length || !PlainRows.can(columns)) return undefined
      return (plain ??= new PlainRows({
        tallies,
        columns,
        titles: first.titles,
        separator,
        counted: rows => understanding.counted(rows),
        rows: (bytes, rows) => loader.addBytes(bytes, rows),
      }))
    }
    await opened.rows(
      sheet,
      (cells, line) => {
        understanding.row(cells, line)
        if (isRow(first, cells, line)) add(cells, line)
      },
      { ...more, drained: () => loader.drained(), bytes: plainly },
    )
    await loader.hand()
    const proposed = proposedBy(understanding, own, more)
    const same =
      proposed.columns.length === first.columns.length &&
      proposed.after === first.after &&
      first.columns.every((column, at) => heldTrue(column, proposed.columns[at]))
    if (!same) throw new GuessedWrong()
    return await finished(target, { ...file, proposed }, loader, keys)
  } catch (error) {
    if (more.signal?.aborted) throw error
    // whatever it was, reading it whole before tells it with its place; rows of it that are on their way come to nothing
    await target.run(sql`select 1`).catch(() => {})
    await target.run(sql`drop table if exists ${tableOf(target, table)}`)
    return undefined
  }
}

/**
 * Makes a table of a file, or of a sheet of it: all of its rows or nothing. A long one is taken in while it is understood, where its first
 * rows say what all of them do; else it is read twice. @throws FileFault, or the signal's reason
 */
export async function takeFile(
  target: Target,
  opened: OpenedFile,
  { name, sheet }: { name: string; sheet: string },
  taken: readonly string[],
  more: Said & { first?: Reading; second?: Reading; once?: Reading } = {},
): Promise<TakenTable> {
  const { first: understanding = {}, second: taking = {}, once = {}, ...said } = more
  const first = await firstRowsSay({ opened, name, sheet }, said)
  if (first) {
    const table = tableNameOf({ name, sheet }, taken, said.table)
    const done = await takeByFirstRows(target, { opened, name, sheet, table }, first, { ...said, ...once })
    if (done) return done
  }
  return takeUnderstood(target, await understandFile(opened, { name, sheet }, taken, { ...said, ...understanding }), taking)
}

/** What a table needs once its rows are there. */
async function finished(target: Target, file: UnderstoodFile, loader: TableLoader, keys: KeyLook): Promise<TakenTable> {
  const { proposed, table } = file
  const { columns } = proposed
  const lineName = lineNameOf(table, columns)
  const key = await keys.make(target, table, columns)
  if (key.length) await target.run(sql`alter table ${loader.name} drop column ${sql.identifier(lineName)}`)
  else await loader.key([lineName])
  for (const { name, title } of columns)
    if (title.toLowerCase() !== readable(name).toLowerCase()) await loader.comment(name, captionOf(title))
  await loader.analyze()
  return {
    name: table,
    rows: loader.rows,
    columns: columns.map(each => ({ name: each.name, title: each.title, type: each.form.type })),
    key: key.length ? key : [lineName],
    problems: [...proposed.notes, ...columns.flatMap(each => each.notes.map(note => `${each.title}: ${note}`))],
  }
}

/** A comment by which a column is captioned as its file calls it. */
const captionOf = (title: string) => `${title.replace(/[:.;]/g, ' ').slice(0, 40)}: as the file calls it`
