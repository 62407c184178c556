import type { PGlite } from '@electric-sql/pglite'
import { serialize } from 'pg-protocol'
import type { Query } from '../../core/dataset/plan'
import { columnBuilder, type ColumnBuilder, type PackedRows } from './packed'

/** What the database says against a statement. */
export class StatementError extends Error {}

/** Rows that are decoded and handed on at a time; more at once would stall the thread that receives them. */
export const rowsPerPart = 5000

/**
 * Runs one statement through the extended query protocol (PostgreSQL manual, chapter 54.2.3) inside the open transaction and hands its rows on in
 * parts, decoded straight from the wire into columns. The unnamed portal stays open between parts.
 * @returns how many rows there were
 */
export async function streamQuery(db: PGlite, query: Query, rowLimit: number, onPart: (rows: PackedRows) => void): Promise<number> {
  const reader = new RowReader(query)
  const send = (...messages: Uint8Array[]) => db.execProtocolRawStream(joined(messages), { onRawData: data => reader.read(data) })
  await send(
    serialize.parse({ text: query.text, name: '', types: [] }),
    serialize.bind({ values: query.values.map(value => value === null || value === undefined ? null : String(value)) }),
    serialize.execute({ rows: rowsPerPart }), serialize.sync(),
  )
  let total = 0
  for (;;) {
    if (reader.error) throw new StatementError(reader.error)
    const part = reader.take()
    total += part.count
    if (part.count || !reader.suspended) onPart(part)
    if (!reader.suspended) return total
    if (total >= rowLimit) throw new StatementError(`The statement gives more than ${rowLimit.toLocaleString('en')} rows; narrow it with a filter.`)
    reader.suspended = false
    await send(serialize.execute({ rows: rowsPerPart }), serialize.sync())
  }
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
class RowReader {
  suspended = false
  error: string | undefined
  private rest = new Uint8Array(0)
  private count = 0
  private readonly builders: ColumnBuilder[]
  constructor(query: Query) {
    this.builders = query.columns.map(column => columnBuilder(column.type, column.scale, rowsPerPart))
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
        case 68: this.row(bytes, at + 5); break
        case 69: this.error ??= errorText(bytes, at + 5, end); break
        case 115: this.suspended = true
      }
      at = end
    }
    this.rest = bytes.slice(at)
  }

  private row(bytes: Uint8Array, start: number): void {
    let at = start + 2
    for (const builder of this.builders) {
      const length = int32(bytes, at)
      at += 4
      if (length < 0) builder.empty()
      else {
        builder.add(bytes, at, at + length)
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
  return bytes[at]! << 24 | bytes[at + 1]! << 16 | bytes[at + 2]! << 8 | bytes[at + 3]!
}

/** The message field ("M") of an ErrorResponse. */
function errorText(bytes: Uint8Array, from: number, to: number): string {
  const fields = new TextDecoder().decode(bytes.subarray(from, to)).split('\0')
  return fields.find(field => field.startsWith('M'))?.slice(1) ?? 'The database refused the statement.'
}
