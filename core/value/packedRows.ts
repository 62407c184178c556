import type { PackedColumn, PackedRows } from './packed'

/**
 * Rows as they came, for a file: the length of a note (4 bytes, little-endian), the note in JSON, then each stretch of numbers or text,
 * begun at multiples of 8.
 */
type ColumnNote =
  | { kind: 'number'; scale: number; values: number; wide: [number, string][] }
  | { kind: 'date' | 'moment'; values: number }
  | { kind: 'boolean'; values: number }
  | { kind: 'text'; bytes: number; ends: number }
type Note = { count: number; columns: ColumnNote[] }[]

const encoder = new TextEncoder()
const decoder = new TextDecoder()
const round8 = (length: number) => (length + 7) & ~7

/** Some rows as stretches of bytes that are to be written one after another; buffers are not copied. */
export function packRows(parts: readonly PackedRows[]): Uint8Array[] {
  const stretches: Uint8Array[] = []
  const put = (bytes: ArrayBufferView): number => {
    stretches.push(new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.byteLength))
    const rest = round8(bytes.byteLength) - bytes.byteLength
    if (rest) stretches.push(new Uint8Array(rest))
    return bytes.byteLength
  }
  const noted = (column: PackedColumn): ColumnNote => {
    if (column.kind === 'text') return { kind: 'text', bytes: put(column.bytes), ends: put(column.ends) }
    if (column.kind === 'number') return { kind: 'number', scale: column.scale, wide: column.wide, values: put(column.values) }
    return { kind: column.kind, values: put(column.values) }
  }
  const note: Note = parts.map(({ count, columns }) => ({ count, columns: columns.map(noted) }))
  const text = encoder.encode(JSON.stringify(note))
  const head = new Uint8Array(round8(4 + text.length))
  new DataView(head.buffer).setUint32(0, text.length, true)
  head.set(text, 4)
  return [head, ...stretches]
}

/** Reads what packRows wrote; the bytes begin at a multiple of 8 of their buffer. */
export function unpackRows(bytes: Uint8Array): PackedRows[] {
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true)
  const note = JSON.parse(decoder.decode(bytes.subarray(4, 4 + length))) as Note
  let at = bytes.byteOffset + round8(4 + length)
  const take = (size: number): number => {
    const from = at
    at += round8(size)
    return from
  }
  const column = (each: ColumnNote): PackedColumn => {
    if (each.kind === 'text') {
      const own = new Uint8Array(bytes.buffer, take(each.bytes), each.bytes)
      return { kind: 'text', bytes: own, ends: new Int32Array(bytes.buffer, take(each.ends), each.ends / 4) }
    }
    if (each.kind === 'boolean') return { kind: 'boolean', values: new Uint8Array(bytes.buffer, take(each.values), each.values) }
    if (each.kind === 'moment') return { kind: 'moment', values: new BigInt64Array(bytes.buffer, take(each.values), each.values / 8) }
    const values = new Float64Array(bytes.buffer, take(each.values), each.values / 8)
    return each.kind === 'number' ? { kind: 'number', scale: each.scale, wide: each.wide, values } : { kind: 'date', values }
  }
  return note.map(({ count, columns }) => ({ count, columns: columns.map(column) }))
}
