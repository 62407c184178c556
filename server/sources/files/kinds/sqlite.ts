import { quotedName as quoted } from '../../../../core/sql/statementParts'
import { fileEndings } from '../../../../core/intake/endings'
import { readFile, stat } from 'node:fs/promises'
import type { Cell } from '../../../../core/intake/cells'
import { decimalText, parseDecimal } from '../../../../core/value/decimal'
import { FileFault, type FileKind, type OpenedFile, rowsAtOnce } from './kind'

/** Bytes of a database that is read: all of it is held in memory meanwhile. */
const mostBytes = 1_000 * 2 ** 20

/** A database of SQLite: its tables and views (SQLite file format, version 3). */
export const sqlite: FileKind = {
  endings: fileEndings.sqlite,
  name: 'SQLite',
  open: async (path, name): Promise<OpenedFile> => {
    const { size } = await stat(path)
    if (size > mostBytes) throw new FileFault(`“${name}” is larger than 1 GB; bring its tables as files of their own.`)
    const { default: start } = await import('sql.js')
    const engine = await start()
    const db = new engine.Database(await readFile(path))
    try {
      const [found] = db.exec(
        `select name from sqlite_master where type in ('table', 'view') and name not like 'sqlite\\_%' escape '\\' order by name`,
      )
      const tables = (found?.values ?? []).map(([each]) => ({ name: String(each) }))
      if (!tables.length) throw new FileFault(`“${name}” holds no tables; choose another.`)
      return {
        tables,
        written: 'SQLite',
        typed: true,
        rows: async (table, onRow, more) => {
          const statement = db.prepare(`select * from ${quoted(table)}`)
          try {
            onRow(statement.getColumnNames(), 1)
            const yes = (db.exec(`pragma table_info(${quoted(table)})`)[0]?.values ?? []).map(each => /^bool/i.test(String(each[2])))
            for (let line = 2; statement.step(); line++) {
              onRow(
                ((statement as unknown as Exact).get(null, { useBigInt: true }) as SqliteValue[]).map((value, at) =>
                  cellOf(value, yes[at] === true),
                ),
                line,
              )
              if (line % rowsAtOnce) continue
              more.signal?.throwIfAborted()
              await more.drained?.()
            }
          } finally {
            statement.free()
          }
        },
        close: () => db.close(),
      }
    } catch (error) {
      db.close()
      if (error instanceof FileFault) throw error
      throw new FileFault(`“${name}” is no database of SQLite that can be read; get it once more.`)
    }
  },
}

/** What the library can do, and its types do not tell: whole numbers with all their digits. */
interface Exact {
  get: (values: null, options: { useBigInt: true }) => unknown[]
}

type SqliteValue = string | number | bigint | Uint8Array | null

/** Real numbers by their shortest exact text; what is a date or a time of day is only told by its text. */
function cellOf(value: SqliteValue, yes: boolean): Cell {
  if (value === null) return ''
  // a column that is declared as yes or no holds 1 and 0
  if (yes && (value === 1n || value === 0n)) return value ? 'true' : 'false'
  if (typeof value === 'bigint') return String(value)
  if (typeof value === 'number') {
    const exact = parseDecimal(String(value))
    return exact ? decimalText(exact) : { text: String(value) }
  }
  if (typeof value !== 'string') return { text: `\\x${Buffer.from(value).toString('hex')}` }
  return /^\d{4}-\d{2}-\d{2}([T ]\d{2}:\d{2}(:\d{2}(\.\d+)?)?)?$/.test(value) ? value : { text: value }
}
