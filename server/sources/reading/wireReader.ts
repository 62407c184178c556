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

/** Reads backend messages (manual, chapter 54.7) from stretches of bytes that may end anywhere. */
export class WireReader {
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
  /** With `onPart`, rows are handed on whenever there are enough of them; else they are taken by whoever asks again and again. */
  constructor(
    private readonly query: Query,
    private readonly onPart?: (rows: PackedRows) => void,
  ) {
    this.builders = query.columns.map(column => columnBuilder(column.type, column.scale, rowsPerPart))
  }

  /** Something is asked again. */
  begin(): void {
    this.suspended = this.ended = this.ready = false
  }

  /** The answer is complete, and something else can be asked. */
  get answered(): boolean {
    return this.ready
  }

  /** What the database says against it so far. */
  get said(): string | undefined {
    return this.error
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
    // what comes after a value that cannot be kept is not handed on
    if (this.fault) return
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
    if (this.onPart && this.count === rowsPerPart) this.onPart(this.take())
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

/** Messages as one stretch of bytes. */
export function joined(messages: Uint8Array[]): Uint8Array {
  const all = new Uint8Array(messages.reduce((sum, message) => sum + message.length, 0))
  let at = 0
  for (const message of messages) {
    all.set(message, at)
    at += message.length
  }
  return all
}
