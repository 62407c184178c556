import { basename, extname } from 'node:path'
import { sql, type SQL } from 'drizzle-orm'
import { readable } from '../../../core/catalog/types'
import { cellText, type ColumnForm } from '../../../core/intake/cells'
import { converted, type Misfit } from '../../../core/intake/convert'
import { isRow, namesFor, type ProposedColumn, type ProposedTable, type SaidTable, Understanding } from '../../../core/intake/understand'
import { TableLoader } from '../copies/loader'
import { tableOf, type Target } from '../copies/target'
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

/** Reads a table of a file whole and says what it holds. @throws FileFault, or the signal's reason */
export async function understandFile(
  opened: OpenedFile,
  { name, sheet }: { name: string; sheet: string },
  taken: readonly string[],
  more: Said & Reading = {},
): Promise<UnderstoodFile> {
  const table = tableNameOf({ name, sheet }, taken, more.table)
  const understanding = new Understanding({
    typed: opened.typed,
    ...(opened.typed ? { titles: true } : {}),
    ...(opened.padded ? { padded: true } : {}),
    ...(more.titles === undefined ? {} : { titles: more.titles }),
    ...(more.titleLine === undefined ? {} : { titleLine: more.titleLine }),
    ...(more.without ? { without: more.without } : {}),
  })
  try {
    await opened.rows(sheet, (cells, line) => understanding.row(cells, line), more)
  } catch (error) {
    const other = opened.otherwise?.(error)
    if (other) return understandFile(other, { name, sheet }, taken, more)
    if (more.signal?.aborted) throw error
    throw faultOf(error, name)
  }
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
  return { opened, name, sheet, table, proposed }
}

const typeOf = ({ form, scale, digits }: ProposedColumn): SQL => {
  switch (form.type) {
    case 'number':
      if (scale === undefined) return sql.raw('numeric')
      // whole numbers of up to 18 digits join and count fastest
      return scale === 0 && (digits ?? 0) <= 18
        ? sql.raw((digits ?? 0) <= 9 ? 'integer' : 'bigint')
        : (digits ?? 0) + (scale ?? 0) <= 1000
          ? sql.raw(`numeric(${Math.max(1, (digits ?? 0) + (scale ?? 0))},${scale ?? 0})`)
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

const sameForm = (a: ColumnForm, b: ColumnForm) => JSON.stringify(a) === JSON.stringify(b)

/**
 * Makes a table of a file, all of its rows or nothing. A value that does not fit what was understood ends it with its line.
 * @throws FileFault
 */
export async function takeFile(target: Target, file: UnderstoodFile, more: Reading = {}): Promise<TakenTable> {
  const { proposed } = file
  const { columns } = proposed
  const called = file.sheet ? `${file.name}, ${file.sheet}` : file.name
  const loader = new TableLoader(target, file.table)
  // the line in the file is the key where no column is one; it is called after the file, since it means nothing in another
  const lineName = namesFor([...columns.map(each => each.name), `${file.table} line`]).at(-1)!
  await loader.create([
    { name: lineName, type: sql`integer`, required: true },
    ...columns.map(each => ({ name: each.name, type: typeOf(each) })),
  ])
  const misfits: Misfit[] = []
  await file.opened.rows(
    file.sheet,
    (cells, line) => {
      if (!isRow(proposed, cells, line)) return
      // what a shorter row lacks is empty, and told; what a longer one has too much would be lost
      if (cells.length > columns.length)
        throw new FileFault(
          `Line ${line.toLocaleString('en')} of “${called}” has ${cells.length} cells where there are ${columns.length} ` +
            `columns; put text that holds the separator into quotes.`,
        )
      const values: (string | null)[] = [String(line)]
      for (let at = 0; at < columns.length; at++) {
        const column = columns[at]!
        const cell = cells[at] ?? ''
        const value = cellText(cell).includes('\0') ? undefined : converted(cell, column.form)
        if (value === undefined) {
          if (misfits.length < 20) misfits.push({ line, column: column.title, cell: cellText(cell).slice(0, 80) })
          values.push(null)
        } else values.push(value)
      }
      loader.add(values)
    },
    { ...more, drained: () => loader.drained() },
  )
  await loader.hand()
  if (misfits.length) {
    const [first] = misfits
    throw new FileFault(
      `“${first!.cell}” on line ${first!.line.toLocaleString('en')} of “${called}” does not fit the column ` +
        `“${first!.column}”; correct it in the file, or take the column as text.`,
    )
  }
  const { rows } = loader
  const key = await keyOf(target, file.table, columns, rows)
  if (key.length) await target.run(sql`alter table ${loader.name} drop column ${sql.identifier(lineName)}`)
  await loader.key(key.length ? key : [lineName])
  for (const { name, title } of columns)
    if (title.toLowerCase() !== readable(name).toLowerCase()) await loader.comment(name, captionOf(title))
  await loader.analyze()
  return {
    name: file.table,
    rows,
    columns: columns.map(each => ({ name: each.name, title: each.title, type: each.form.type })),
    key: key.length ? key : [lineName],
    problems: [...proposed.notes, ...columns.flatMap(each => each.notes.map(note => `${each.title}: ${note}`))],
  }
}

/** A comment by which a column is captioned as its file calls it. */
const captionOf = (title: string) => `${title.replace(/[:.;]/g, ' ').slice(0, 40)}: as the file calls it`

/** The first column that is filled and another in every row, those that are called like keys first; nothing where there is none. */
async function keyOf(target: Target, table: string, columns: readonly ProposedColumn[], rows: number): Promise<string[]> {
  if (!rows) return []
  const able = columns.filter(each => each.empty === 0 && (each.form.type === 'text' || (each.form.type === 'number' && each.scale === 0)))
  const named = (name: string) => (/^(id|no|nr|number|code|key)$|_(id|no|nr|number|code|key)$/.test(name) ? 0 : 1)
  const candidates = able
    .map((column, at) => ({ column, at }))
    // a quantity that happens to be another in each row is no key
    .filter(each => each.column === columns[0] || !named(each.column.name))
    .sort((a, b) => named(a.column.name) - named(b.column.name) || a.at - b.at)
    .slice(0, 6)
  for (const { column } of candidates) {
    const found = await target.run(
      sql`select not exists (select 1 from ${tableOf(target, table)} group by ${sql.identifier(column.name)} having count(*) > 1) as only`,
    )
    if (found[0]?.only === true) return [column.name]
  }
  return []
}
