import { readFileSync } from 'node:fs'
import type { Connection, ConnectionOptions, RowDataPacket } from 'mysql2'
import { placeOf } from '../../../core/intake/serverPlace'
import { parseDay } from '../../../core/value/date'
import { parseMoment } from '../../../core/value/moment'
import {
  type Adapter,
  AdapterError,
  blockSize,
  type Foreign,
  type ForeignCell,
  type ForeignColumn,
  type ForeignPart,
  type ForeignTable,
  type KeyBlock,
  type OpenForeign,
} from './adapter'

/** Rows that are handed on at a time. */
const rowsAtOnce = 2000

interface ColumnRow extends RowDataPacket {
  table: string
  name: string
  type: string
  full: string
  digits: string | null
  scale: string | null
  nullable: string
  comment: string
  key: string
}

const quoted = (name: string) => `\`${name.replaceAll('`', '``')}\``

/** How a column is kept, and how it is asked for; nothing where it is left out. */
function keptAs({ type, full, digits, scale, name }: ColumnRow): { kept: ForeignColumn['kept']; asked: string; read: Reader } | undefined {
  const column = quoted(name)
  const unsigned = /unsigned/.test(full)
  switch (type) {
    case 'tinyint':
    case 'smallint':
    case 'mediumint':
    case 'year':
      return { kept: 'integer', asked: column, read: plain }
    case 'int':
      return { kept: unsigned ? 'bigint' : 'integer', asked: column, read: plain }
    case 'bigint':
      return { kept: unsigned ? 'numeric(20,0)' : 'bigint', asked: column, read: plain }
    case 'decimal':
      return { kept: `numeric(${digits ?? 65},${scale ?? 0})`, asked: column, read: plain }
    // a number of four bytes is written with six digits only: as one of eight it has all, and the shortest text for four is found here
    case 'float':
      return { kept: 'numeric', asked: `cast(${column} as double)`, read: shortFloat }
    case 'double':
      return { kept: 'numeric', asked: column, read: plainNumber }
    case 'date':
      return { kept: 'date', asked: column, read: day }
    case 'datetime':
    case 'timestamp':
      return { kept: 'timestamp', asked: column, read: moment }
    case 'bit':
      return Number(digits) === 1
        ? { kept: 'boolean', asked: `${column} + 0`, read: yes }
        : { kept: 'numeric(20,0)', asked: `${column} + 0`, read: plain }
    case 'char':
    case 'varchar':
    case 'tinytext':
    case 'text':
    case 'mediumtext':
    case 'longtext':
    case 'enum':
    case 'set':
    case 'json':
    case 'uuid':
    case 'inet4':
    case 'inet6':
    case 'time':
      return { kept: 'text', asked: column, read: text }
    case 'binary':
    case 'varbinary':
      return { kept: 'text', asked: `lower(hex(${column}))`, read: text }
    default:
      return undefined
  }
}

/** Reads a cell; undefined where it is empty without being so, as a date of zeros is. @throws where it cannot be kept */
type Reader = (cell: Buffer) => ForeignCell | undefined
class CellError extends Error {}
const refuse = (cell: Buffer, wanted: string): never => {
  throw new CellError(
    `“${[...cell.toString('utf8')]
      .slice(0, 40)
      .map(char => (char < ' ' ? '·' : char))
      .join('')}”, which is no ${wanted} that can be kept exactly`,
  )
}
const plain: Reader = cell => cell.toString('latin1')
const plainNumber: Reader = cell => cell.toString('latin1')
const shortFloat: Reader = cell => {
  const value = Number(cell.toString('latin1'))
  for (let figures = 1; figures <= 9; figures++) {
    const short = value.toPrecision(figures)
    if (Math.fround(Number(short)) === Math.fround(value)) return short
  }
  return String(value)
}
const text: Reader = cell => {
  // PostgreSQL's texts cannot hold it
  if (cell.includes(0)) return refuse(cell, 'text')
  return cell.toString('utf8')
}
/** A date of zeros, or with zeros for day or month, is none of the calendar. */
const zeros = /^\d{4}-(00-|\d\d-00)/
const day: Reader = cell => {
  const written = cell.toString('latin1')
  if (zeros.test(written)) return undefined
  return parseDay(written) === undefined ? refuse(cell, 'date') : written
}
const moment: Reader = cell => {
  const written = cell.toString('latin1')
  if (zeros.test(written)) return undefined
  return parseMoment(written) === undefined ? refuse(cell, 'date with a time') : written
}
const yes: Reader = cell => (cell.toString('latin1') === '1' ? 't' : 'f')

/** What is said against a connection. */
function reachSentence(error: unknown, host: string, user: string, database: string): string {
  const { code = '', message = String(error) } = (error ?? {}) as { code?: string; message?: string }
  switch (code) {
    case 'ECONNREFUSED':
      return `Nothing answers at ${host}; see that the server runs and that host and port are right.`
    case 'ENOTFOUND':
    case 'EAI_AGAIN':
      return `There is no host “${host.split(':')[0]}”; correct its name.`
    case 'ETIMEDOUT':
      return `The server at ${host} did not answer within 10 seconds; try again, or correct host and port.`
    case 'ER_ACCESS_DENIED_ERROR':
      return `The server at ${host} does not know “${user}” with this password; correct one of them.`
    case 'ER_DBACCESS_DENIED_ERROR':
    case 'ER_BAD_DB_ERROR':
      return `The server at ${host} has no database “${database}” that “${user}” may read; correct its name.`
    case 'ER_TABLE_DEF_CHANGED':
      return 'A table was changed while it was copied; copy once more.'
    case 'HANDSHAKE_NO_SSL_SUPPORT':
      return `The server at ${host} does not encrypt; write ?ssl=off behind the address if that is meant.`
  }
  if (/self.signed|certificate/i.test(message))
    return `Nobody whom this machine trusts has signed the certificate of ${host}; write ?ssl-ca=… with that of its authority.`
  return `The server at ${host} said: ${message.replace(/\.?$/, '.')}`
}

function readAddress(address: string, password?: string): { options: ConnectionOptions; host: string; user: string; database: string } {
  const found = placeOf(address)
  if (!found)
    throw new AdapterError(
      'The address cannot be read; write it as mysql://user@host:3306/database, with @ or / in a password as %40 or %2F.',
    )
  const { database, user, authority } = found
  const host = found.host || 'localhost'
  if (!database) throw new AdapterError('The address names no database; write it at the end, after a slash.')
  if (!user) throw new AdapterError('The address names nobody who reads; write the user before the host, followed by @.')
  const socket = host.startsWith('/') ? host : undefined
  const own = socket !== undefined || ['localhost', '127.0.0.1', '::1'].includes(host)
  const ssl = found.encryption || (own ? 'off' : 'on')
  const port = Number(found.port)
  return {
    database,
    user,
    host: socket ?? `${host}:${port}`,
    options: {
      ...(socket === undefined ? { host, port } : { socketPath: socket }),
      user,
      password: password ?? found.password,
      database,
      charset: 'utf8mb4',
      // Buffers only: by itself the driver rounds large numbers, and makes days out of dates of zeros
      typeCast: false,
      supportBigNumbers: true,
      bigNumberStrings: true,
      dateStrings: true,
      connectTimeout: 10_000,
      ...(ssl === 'off' ? {} : { ssl: authority ? { ca: readFileSync(authority) } : {} }),
    },
  }
}

/** Digits alone go into a statement as they are: as texts they would be compared by numbers of eight bytes. */
const digits = (values: readonly string[]) => values.filter(each => /^-?\d+$/.test(each)).join(', ') || 'null'

/** What a part of a table's rows is told by. */
function condition(part: ForeignPart): { where: string; values: string[] } {
  if ('column' in part) {
    const name = quoted(part.column)
    const number = /^-?\d+$/.test(part.from)
    return { where: ` where ${name} >= ${number ? part.from : '?'} or ${name} is null`, values: number ? [] : [part.from] }
  }
  const name = quoted(part.key)
  return { where: ` where ${name} in (${digits(part.of)})`, values: [] }
}

class OpenMariadb implements OpenForeign {
  private readonly readers = new Map<string, { asked: string; read: Reader }[]>()

  constructor(
    private readonly connection: Connection,
    private readonly database: string,
    private readonly sentence: (error: unknown) => string,
  ) {}

  private async rows<Row>(statement: string, values: unknown[] = []): Promise<Row[]> {
    const [rows] = await this.connection.promise().query<RowDataPacket[]>({ sql: statement, values, typeCast: true })
    return rows as Row[]
  }

  async look(): Promise<Foreign> {
    const [{ version }] = (await this.rows<{ version: string }>('select version() as version')) as [{ version: string }]
    const tables = await this.rows<{ name: string; comment: string; rows: string | null; engine: string | null; kind: string }>(
      `select table_name as name, table_comment as comment, table_rows as \`rows\`, engine, table_type as kind
       from information_schema.tables
       where table_schema = ? and table_type in ('BASE TABLE', 'VIEW') order by table_name`,
      [this.database],
    )
    const columns = await this.rows<ColumnRow>(
      `select table_name as \`table\`, column_name as name, lower(data_type) as type, lower(column_type) as \`full\`,
              numeric_precision as digits, numeric_scale as scale, is_nullable as nullable, column_comment as comment, column_key as \`key\`
       from information_schema.columns where table_schema = ? order by table_name, ordinal_position`,
      [this.database],
    )
    const keys = await this.rows<{ table: string; name: string; column: string; target: string | null; to: string | null }>(
      `select table_name as \`table\`, constraint_name as name, column_name as \`column\`, referenced_table_name as target,
              referenced_column_name as \`to\`
       from information_schema.key_column_usage where table_schema = ? and (constraint_name = 'PRIMARY' or referenced_table_schema = ?)
       order by table_name, constraint_name, ordinal_position`,
      [this.database, this.database],
    )
    const found: ForeignTable[] = tables.map(({ name, comment, rows, kind, engine }) => {
      const notes: string[] = []
      const readers: { asked: string; read: Reader }[] = []
      const own = columns
        .filter(each => each.table === name)
        .flatMap((column): ForeignColumn[] => {
          const as = keptAs(column)
          if (!as) {
            notes.push(`The column “${column.name}” is left out: ${column.type} has no counterpart in a report.`)
            return []
          }
          readers.push(as)
          return [
            {
              name: column.name,
              kept: as.kept,
              required: column.nullable === 'NO' && !['date', 'datetime', 'timestamp'].includes(column.type),
              ...(column.comment ? { comment: column.comment } : {}),
            },
          ]
        })
      if (kind === 'BASE TABLE' && engine && !/^(InnoDB|RocksDB)$/i.test(engine))
        notes.push(`It is kept in ${engine}, so it may change while it is copied.`)
      this.readers.set(name, readers)
      return {
        name,
        ...(comment && kind === 'BASE TABLE' ? { comment } : {}),
        columns: own,
        key: keys.filter(each => each.table === name && each.name === 'PRIMARY').map(each => each.column),
        rows: Number(rows ?? 0),
        notes,
      }
    })
    const foreign = new Map<string, Foreign['keys'][number]>()
    for (const { table, name, column, target, to } of keys) {
      if (target === null) continue
      const key = foreign.get(`${table} ${name}`) ?? { name, from: { table, columns: [] }, to: { table: target, columns: [] } }
      key.from.columns.push(column)
      key.to.columns.push(to!)
      foreign.set(`${table} ${name}`, key)
    }
    return { version, tables: found.filter(table => table.columns.length), keys: [...foreign.values()], notes: [] }
  }

  async read(
    table: ForeignTable,
    onRows: (rows: ForeignCell[][]) => Promise<void>,
    told: (note: string) => void,
    part?: ForeignPart,
  ): Promise<void> {
    const readers = this.readers.get(table.name)!
    const { where, values } = part ? condition(part) : { where: '', values: [] }
    const statement = `select ${readers.map(each => each.asked).join(', ')} from ${quoted(table.name)}${where}`
    const zeroed = readers.map(() => 0)
    let rows: ForeignCell[][] = []
    let count = 0
    const stream = this.connection
      .query({ sql: statement, values, rowsAsArray: true, typeCast: false })
      .stream({ highWaterMark: rowsAtOnce })
    try {
      for await (const row of stream as AsyncIterable<(Buffer | null)[]>) {
        count++
        const cells: ForeignCell[] = new Array<ForeignCell>(readers.length)
        for (let at = 0; at < readers.length; at++) {
          const cell = row[at]
          if (cell === null || cell === undefined) {
            cells[at] = null
            continue
          }
          const value = readers[at]!.read(cell)
          if (value === undefined) zeroed[at]!++
          cells[at] = value ?? null
        }
        rows.push(cells)
        if (rows.length < rowsAtOnce) continue
        await onRows(rows)
        rows = []
      }
    } catch (error) {
      const at = `row ${count.toLocaleString('en')} of “${table.name}”`
      throw new AdapterError(
        error instanceof CellError
          ? `${at[0]!.toUpperCase()}${at.slice(1)} holds ${error.message}; correct it in the database.`
          : `${this.sentence(error)} It was at ${at}.`,
      )
    }
    if (rows.length) await onRows(rows)
    zeroed.forEach((times, at) => {
      if (times)
        told(
          `${times.toLocaleString('en')} ${times === 1 ? 'date' : 'dates'} of zeros in “${table.columns[at]!.name}” of “${table.name}” ` +
            `${times === 1 ? 'is' : 'are'} taken as empty.`,
        )
    })
  }

  async blocks(table: ForeignTable, key: string, onBlocks: (blocks: KeyBlock[]) => Promise<void>): Promise<void> {
    const name = quoted(key)
    // what a bit operation gives has no sign, and a difference with it has none either unless it is cast
    const place = `${name} & ${blockSize - 1}`
    const stream = this.connection
      .query({
        sql:
          `select (${name} - cast(${place} as signed)) div ${blockSize}, bit_or(1 << (${place})) from ${quoted(table.name)} ` +
          `group by 1 order by null`,
        rowsAsArray: true,
        typeCast: false,
      })
      .stream({ highWaterMark: rowsAtOnce })
    let blocks: KeyBlock[] = []
    try {
      for await (const [block, present] of stream as AsyncIterable<[Buffer, Buffer]>) {
        blocks.push([block.toString('latin1'), present.toString('latin1')])
        if (blocks.length < rowsAtOnce) continue
        await onBlocks(blocks)
        blocks = []
      }
    } catch (error) {
      throw new AdapterError(`${this.sentence(error)} It was at the keys of “${table.name}”.`)
    }
    if (blocks.length) await onBlocks(blocks)
  }

  async close(): Promise<void> {
    await this.connection
      .promise()
      .end()
      .catch(() => {})
  }
}

/** MariaDB and MySQL. */
export const mariadb: Adapter = {
  kind: 'mariadb',
  name: 'MariaDB or MySQL',
  schemes: ['mysql:', 'mariadb:'],
  open: async (address, password) => {
    const { options, host, user, database } = readAddress(address, password)
    const sentence = (error: unknown) => reachSentence(error, host, user, database)
    const { createConnection } = await import('mysql2')
    const connection = createConnection(options)
    connection.on('error', () => {})
    try {
      await connection.promise().query('set session transaction isolation level repeatable read')
      await connection.promise().query('start transaction with consistent snapshot, read only')
      return new OpenMariadb(connection, database, sentence)
    } catch (error) {
      connection.destroy()
      throw new AdapterError(sentence(error))
    }
  },
}
