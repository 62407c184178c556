import { basename, extname } from 'node:path'
import type { PGlite } from '@electric-sql/pglite'
import { sql, type SQL } from 'drizzle-orm'
import { bound } from '../../../core/catalog/dialect'
import { readable } from '../../../core/catalog/types'
import type { ColumnForm } from '../../../core/intake/cells'
import { converted, copyRow, type Misfit } from '../../../core/intake/convert'
import { isRow, namesFor, type ProposedColumn, type ProposedTable, Understanding } from '../../../core/intake/understand'
import { readAsWritten, readDelimited, type Written } from './delimitedFile'

/** A file that cannot be taken in: one sentence. */
export class FileFault extends Error {}

/** A file as it was understood. */
export interface UnderstoodFile {
  path: string
  /** what people call it */
  name: string
  /** the table that it becomes */
  table: string
  written: Written
  proposed: ProposedTable
}

/** What somebody said of a file, against what was understood. */
export interface Said {
  /** what the file is called, where its path does not say */
  name?: string
  table?: string
  /** is its first row the titles? */
  titles?: boolean
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
/** Rows of COPY that are handed over at a time, in letters. */
const pieceSize = 8_000_000

/** Reads a file whole and says what it holds. @throws FileFault */
export async function understandFile(
  path: string,
  taken: readonly string[],
  more: Said & { progress?: (bytes: number) => void; signal?: AbortSignal; onRow?: (cells: string[]) => void } = {},
): Promise<UnderstoodFile> {
  const name = more.name ?? basename(path)
  const [base] = namesFor([more.table ?? basename(name, extname(name))])
  let table = base!.slice(0, mostName)
  for (let number = 2; taken.includes(table); number++) table = `${base!.slice(0, mostName)}_${number}`
  try {
    return await readAsWritten(path, async written => {
      const understanding = new Understanding(more.titles === undefined ? {} : { titles: more.titles })
      await readDelimited(path, written, (cells, line) => understanding.row(cells, line), more)
      const proposed = understanding.result()
      for (const column of proposed.columns) {
        const form = more.forms?.[column.name]
        if (!form || sameForm(form, column.form)) continue
        column.form = form
        column.notes = []
        // what was measured was measured for another form
        delete column.scale
        delete column.digits
      }
      if (!proposed.columns.length) throw new FileFault(`“${name}” holds no rows; choose a file with a table in it.`)
      return { path, name, table, written, proposed }
    })
  } catch (error) {
    if (error instanceof FileFault || more.signal?.aborted) throw error
    throw new FileFault(`“${name}” cannot be read: ${error instanceof Error ? error.message : String(error)}`)
  }
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

const run = async (db: PGlite, statement: SQL) => {
  const { text, values } = bound(statement)
  return db.query<Record<string, unknown>>(text, values)
}

/**
 * Makes a table of a file in a schema, all of its rows or nothing. A value that does not fit what was understood ends it with its line.
 * @throws FileFault
 */
export async function takeFile(
  db: PGlite,
  schema: string,
  file: UnderstoodFile,
  more: { progress?: (bytes: number) => void; signal?: AbortSignal } = {},
): Promise<TakenTable> {
  const { proposed } = file
  const { columns } = proposed
  const called = file.name
  const table = sql`${sql.identifier(schema)}.${sql.identifier(file.table)}`
  // the line in the file is the key where no column is one; it is called after the file, since it means nothing in another
  const lineName = namesFor([...columns.map(each => each.name), `${file.table} line`]).at(-1)!
  await run(
    db,
    sql`create table ${table} (${sql.join(
      [sql`${sql.identifier(lineName)} integer not null`, ...columns.map(each => sql`${sql.identifier(each.name)} ${typeOf(each)}`)],
      sql`, `,
    )})`,
  )
  const copy = bound(sql`copy ${table} from '/dev/blob'`).text
  let piece: string[] = []
  let size = 0
  let rows = 0
  const misfits: Misfit[] = []
  const hand = async () => {
    if (!size) return
    const blob = new Blob(piece)
    piece = []
    size = 0
    await db.query(copy, [], { blob })
  }
  await readDelimited(
    file.path,
    file.written,
    (cells, line) => {
      if (!isRow(proposed, cells, line)) return
      // what a shorter row lacks is empty, and told; what a longer one has too much would be lost
      if (cells.length > columns.length)
        throw new FileFault(
          `Line ${line.toLocaleString('en')} of “${called}” has ${cells.length} cells where there are ${columns.length} ` +
            `columns; put text that holds the separator into quotes.`,
        )
      rows++
      const values: (string | null)[] = [String(line)]
      for (let at = 0; at < columns.length; at++) {
        const column = columns[at]!
        const cell = cells[at] ?? ''
        const value = cell.includes('\0') ? undefined : converted(cell, column.form)
        if (value === undefined) {
          if (misfits.length < 20) misfits.push({ line, column: column.title, cell: cell.slice(0, 80) })
          values.push(null)
        } else values.push(value)
      }
      const row = copyRow(values)
      piece.push(row)
      size += row.length
    },
    { ...more, drained: async () => (size > pieceSize ? hand() : undefined) },
  )
  await hand()
  if (misfits.length) {
    const [first] = misfits
    throw new FileFault(
      `“${first!.cell}” on line ${first!.line.toLocaleString('en')} of “${called}” does not fit the column ` +
        `“${first!.column}”; correct it in the file, or take the column as text.`,
    )
  }
  const key = await keyOf(db, schema, file.table, columns, rows)
  if (key.length) await run(db, sql`alter table ${table} drop column ${sql.identifier(lineName)}`)
  await run(
    db,
    sql`alter table ${table} add primary key (${sql.join(
      (key.length ? key : [lineName]).map(each => sql.identifier(each)),
      sql`, `,
    )})`,
  )
  for (const { name, title } of columns)
    if (title.toLowerCase() !== readable(name).toLowerCase())
      await db.exec(`comment on column ${bound(sql`${table}.${sql.identifier(name)}`).text} is ${literal(captionOf(title))}`)
  await db.exec(`analyze ${bound(sql`${table}`).text}`)
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

/** A text of ours as a literal: COMMENT takes no bound values. */
const literal = (text: string) => `'${text.replace(/'/g, "''")}'`

/** The first column that is filled and another in every row, those that are called like keys first; nothing where there is none. */
async function keyOf(db: PGlite, schema: string, table: string, columns: readonly ProposedColumn[], rows: number): Promise<string[]> {
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
    const { rows: found } = await run(
      db,
      sql`select not exists (select 1 from ${sql.identifier(schema)}.${sql.identifier(table)} group by ${sql.identifier(
        column.name,
      )} having count(*) > 1) as only`,
    )
    if (found[0]?.only === true) return [column.name]
  }
  return []
}
