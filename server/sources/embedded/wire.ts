import type { PGlite } from '@electric-sql/pglite'
import { serialize } from 'pg-protocol'
import type { Query } from '../../../core/sql/query'
import { columnBuilder, type ColumnBuilder, type PackedRows, ValueFault } from '../../../core/value/packed'

/** What the database says against a statement; `position` is the place in its text that it means, counted from 1. */
export class StatementError extends Error {
  constructor(
    message: string,
    readonly position?: number,
  ) {
    super(message)
  }
}

/** A value that cannot be kept as it stands in the source: one sentence for whoever reads. */
export class ValueError extends StatementError {}

/** The engine did not bring an answer to its end: nothing that it gave can be trusted, and it has to be opened anew. */
export class UnansweredError extends StatementError {
  constructor() {
    super('the source broke off its answer to a statement, which may be too deep for it; make it simpler, then try again')
  }
}

/** A column of a statement's result: its name and the number and modifier of its type in the database. */
export interface DescribedColumn {
  name: string
  type: number
  modifier: number
}

/** Rows that are decoded and handed on at a time; more at once would stall the thread that receives them. */
export const rowsPerPart = 5000

/**
 * Runs one statement through the extended query protocol (PostgreSQL manual, chapter 54.2.3) inside the open transaction and hands its
 * rows on in
 * parts, decoded straight from the wire into columns. The unnamed portal stays open between parts.
 * @returns how many rows there were
 */
export async function streamQuery(db: PGlite, query: Query, rowLimit: number, onPart: (rows: PackedRows) => void): Promise<number> {
  const reader = new WireReader(query)
  const send = (...messages: Uint8Array[]) => db.execProtocolRawStream(joined(messages), { onRawData: data => reader.read(data) })
  const values = query.values.map(value => (value === null || value === undefined ? null : String(value)))
  // a text of an author's runs only as the query of a cursor: one statement, a SELECT
  const text = query.authored ? `${cursor} ${query.text}` : query.text
  await send(
    serialize.parse({ text, name: '', types: [] }),
    serialize.bind({ values }),
    serialize.execute({ rows: query.authored ? 0 : rowsPerPart }),
    serialize.sync(),
  )
  if (query.authored) return fetchAll(reader, send, rowLimit, onPart)
  let total = 0
  for (;;) {
    reader.check()
    const part = reader.take()
    total += part.count
    if (part.count || !reader.suspended) onPart(part)
    if (!reader.suspended) return total
    if (total >= rowLimit)
      throw new StatementError(`The statement gives more than ${rowLimit.toLocaleString('en')} rows; narrow it with a filter.`)
    reader.begin()
    await send(serialize.execute({ rows: rowsPerPart }), serialize.sync())
  }
}

const cursor = 'declare authored no scroll cursor for'

async function fetchAll(
  reader: WireReader,
  send: (...messages: Uint8Array[]) => Promise<unknown>,
  rowLimit: number,
  onPart: (rows: PackedRows) => void,
): Promise<number> {
  for (let total = 0; ;) {
    reader.check(cursor.length + 1)
    reader.begin()
    await send(
      serialize.parse({ text: `fetch forward ${rowsPerPart} from authored`, name: '', types: [] }),
      serialize.bind({ values: [] }),
      serialize.execute({ rows: 0 }),
      serialize.sync(),
    )
    reader.check()
    const part = reader.take()
    total += part.count
    if (part.count || !total) onPart(part)
    if (part.count < rowsPerPart) return total
    if (total >= rowLimit)
      throw new StatementError(`The statement gives more than ${rowLimit.toLocaleString('en')} rows; narrow it with a filter.`)
  }
}

/** The columns that a statement would give, without running it (manual, chapter 54.2.3: Describe). */
export async function describeStatement(db: PGlite, text: string): Promise<DescribedColumn[]> {
  const reader = new WireReader({ text, values: [], columns: [] })
  await db.execProtocolRawStream(
    joined([serialize.parse({ text, name: '', types: [] }), serialize.describe({ type: 'S', name: '' }), serialize.sync()]),
    { onRawData: data => reader.read(data) },
  )
  reader.check()
  return reader.described
}

function joined(messages: Uint8Array[]): Uint8Array {
  const all = new Uint8Array(messages.reduce((sum, message) => sum + message.length, 0))
  let at = 0
  for (const message of messages) {
    all.set(message, at)
    at += message.length
  }
  return all
}

/** Reads backend messages (manual, chapter 54.7) from stretches of bytes that may end anywhere. */
class WireReader {
  suspended = false
  private error: string | undefined
  private position: number | undefined
  private fault: ValueError | undefined
  private lost = false
  /** a message came that ends an answer, and the engine is ready for the next */
  private ended = false
  private ready = false
  private rows = 0
  described: DescribedColumn[] = []
  private rest = new Uint8Array(0)
  private count = 0
  private readonly builders: ColumnBuilder[]
  constructor(private readonly query: Query) {
    this.builders = query.columns.map(column => columnBuilder(column.type, column.scale, rowsPerPart))
  }

  /** Something is asked again. */
  begin(): void {
    this.suspended = this.ended = this.ready = false
  }

  /**
   * Was the answer brought to its end (manual, chapter 54.2.3: CommandComplete, EmptyQueryResponse, PortalSuspended or, of a description,
   * RowDescription or NoData; then ReadyForQuery)? An engine that swallowed a fault gives none of them, and its answer is none.
   * `before` are characters before the statement that its author did not write.
   * @throws StatementError
   */
  check(before = 0): void {
    if (this.lost) throw new UnansweredError()
    if (this.error !== undefined) {
      const { position } = this
      throw new StatementError(this.error, position === undefined ? undefined : position - before)
    }
    if (this.fault) throw this.fault
    if (!this.ended || !this.ready || this.rest.length) throw new UnansweredError()
  }

  read(data: Uint8Array): void {
    let bytes = data
    if (this.rest.length) {
      bytes = new Uint8Array(this.rest.length + data.length)
      bytes.set(this.rest)
      bytes.set(data, this.rest.length)
    }
    let at = 0
    while (at + 5 <= bytes.length) {
      const end = at + 1 + int32(bytes, at + 1)
      if (end > bytes.length) break
      switch (bytes[at]) {
        case 68:
          this.row(bytes, at + 5)
          break
        case 69:
          // a fault while it was read left no statement behind (SQLSTATE 26000)
          if (errorField(bytes, at + 5, end, 'C') === '26000') this.lost = true
          this.position ??= Number(errorField(bytes, at + 5, end, 'P')) || undefined
          this.error ??= errorField(bytes, at + 5, end, 'M') ?? 'The database refused the statement.'
          break
        case 84:
          this.described = rowDescription(bytes, at + 5)
          this.ended = true
          break
        case 115:
          this.suspended = this.ended = true
          break
        case 67:
        case 73:
        case 110:
          this.ended = true
          break
        case 90:
          this.ready = true
      }
      at = end
    }
    this.rest = bytes.slice(at)
  }

  private row(bytes: Uint8Array, start: number): void {
    let at = start + 2
    this.rows++
    for (const [place, builder] of this.builders.entries()) {
      const length = int32(bytes, at)
      at += 4
      if (length < 0) builder.empty()
      else {
        try {
          builder.add(bytes, at, at + length)
        } catch (error) {
          if (!(error instanceof ValueFault)) throw error
          builder.empty()
          const { path } = this.query.columns[place]!
          this.fault ??= new ValueError(
            `The column “${path}” holds “${error.value.slice(0, 40)}” in row ${this.rows}, which is no ${error.wanted} that can be kept ` +
              `exactly; correct it in the source, or leave such rows out with a filter.`,
          )
        }
        at += length
      }
    }
    this.count++
  }

  take(): PackedRows {
    const rows = { count: this.count, columns: this.builders.map(builder => builder.take()) }
    this.count = 0
    return rows
  }
}

function int32(bytes: Uint8Array, at: number): number {
  return (bytes[at]! << 24) | (bytes[at + 1]! << 16) | (bytes[at + 2]! << 8) | bytes[at + 3]!
}

/** A field of an ErrorResponse: its message ("M"), code ("C") or position ("P"). */
function errorField(bytes: Uint8Array, from: number, to: number, kind: string): string | undefined {
  const fields = new TextDecoder().decode(bytes.subarray(from, to)).split('\0')
  return fields.find(field => field.startsWith(kind))?.slice(1)
}

/** A RowDescription: name, table, column, type, size, modifier and format of each column. */
function rowDescription(bytes: Uint8Array, start: number): DescribedColumn[] {
  const count = (bytes[start]! << 8) | bytes[start + 1]!
  const columns: DescribedColumn[] = []
  for (let at = start + 2; columns.length < count;) {
    const end = bytes.indexOf(0, at)
    columns.push({ name: new TextDecoder().decode(bytes.subarray(at, end)), type: int32(bytes, end + 7), modifier: int32(bytes, end + 13) })
    at = end + 19
  }
  return columns
}
