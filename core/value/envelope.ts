import type { Column } from './columns'
import { type PackedColumn, unpackColumn } from './packed'
import type { LevelRecords } from './records'

/**
 * Records on their way between programs: a few bytes of JSON that say what there is, and after them the columns as they lie in memory.
 * Layout: length of the JSON (4 bytes, little-endian), the JSON in UTF-8, then each stretch of numbers or text, begun at multiples of 8.
 */
export interface Envelope<Head> {
  head: Head
  levels: LevelRecords[]
}

interface Stretch {
  from: number
  length: number
}
type ColumnNote =
  | { path: string; kind: 'number'; scale: number; values: Stretch; wide?: [number, string][] }
  | { path: string; kind: 'date' | 'moment' | 'boolean'; values: Stretch }
  | { path: string; kind: 'text'; bytes: Stretch; ends: Stretch }
interface Note<Head> {
  head: Head
  levels: { count: number; starts: Stretch; columns: ColumnNote[] }[]
}

const encoder = new TextEncoder()
const decoder = new TextDecoder()
const round8 = (length: number) => (length + 7) & ~7

/** Puts records and what is to be said of them into one stretch of bytes. */
export function packEnvelope<Head>(head: Head, levels: readonly LevelRecords[]): Uint8Array<ArrayBuffer> {
  const stretches: Uint8Array[] = []
  let at = 0
  const put = (bytes: ArrayBufferView): Stretch => {
    const stretch = { from: at, length: bytes.byteLength }
    stretches.push(new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.byteLength))
    at += round8(bytes.byteLength)
    return stretch
  }
  const noted = (path: string, column: Column): ColumnNote => {
    if (column.kind === 'text') {
      const { bytes, ends } = packTexts(column.values)
      return { path, kind: 'text', bytes: put(bytes), ends: put(ends) }
    }
    const { kind } = column
    if (column.kind !== 'number') return { path, kind: kind as 'date' | 'moment' | 'boolean', values: put(column.values) }
    const wide = column.wide?.size ? [...column.wide].map(([row, units]): [number, string] => [row, String(units)]) : undefined
    return { path, kind: 'number', scale: column.scale, values: put(column.values), ...(wide ? { wide } : {}) }
  }
  const note: Note<Head> = {
    head,
    levels: levels.map(({ count, starts, columns }) => ({
      count,
      starts: put(starts),
      columns: Object.entries(columns).map(([path, column]) => noted(path, column)),
    })),
  }
  return assembled(encoder.encode(JSON.stringify(note)), stretches, at)
}

function assembled(note: Uint8Array, stretches: readonly Uint8Array[], length: number): Uint8Array<ArrayBuffer> {
  const begin = round8(4 + note.length)
  const all = new Uint8Array(begin + length)
  new DataView(all.buffer).setUint32(0, note.length, true)
  all.set(note, 4)
  let at = begin
  for (const stretch of stretches) {
    all.set(stretch, at)
    at += round8(stretch.length)
  }
  return all
}

function noteOf<Head>(bytes: Uint8Array): { note: Note<Head>; begin: number } {
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true)
  return { note: JSON.parse(decoder.decode(bytes.subarray(4, 4 + length))) as Note<Head>, begin: round8(4 + length) }
}

/** What is said of the records, without reading them. */
export function envelopeHead<Head>(bytes: Uint8Array): Head {
  return noteOf<Head>(bytes).note.head
}

/** The same records with more said of them. */
export function withHead<More extends object>(bytes: Uint8Array, more: More): Uint8Array<ArrayBuffer> {
  const { note, begin } = noteOf<object>(bytes)
  const changed = encoder.encode(JSON.stringify({ ...note, head: { ...note.head, ...more } }))
  return assembled(changed, [bytes.subarray(begin)], bytes.length - begin)
}

/** Reads what packEnvelope wrote. */
export function readEnvelope<Head>(bytes: Uint8Array): Envelope<Head> {
  const { note, begin } = noteOf<Head>(bytes)
  // numbers lie at multiples of 8 of the envelope; one that does not begin so itself is copied first
  const own = bytes.byteOffset % 8 ? bytes.slice() : bytes
  const stretch = ({ from, length }: Stretch) => ({ at: own.byteOffset + begin + from, length })
  const numbers = (where: Stretch) => {
    const { at, length } = stretch(where)
    return new Float64Array(own.buffer, at, length / 8)
  }
  const plain = (where: Stretch) => {
    const { at, length } = stretch(where)
    return new Uint8Array(own.buffer, at, length)
  }
  const places = (where: Stretch) => {
    const { at, length } = stretch(where)
    return new Int32Array(own.buffer, at, length / 4)
  }
  const column = (each: ColumnNote): Column => {
    switch (each.kind) {
      case 'text':
        return unpackColumn({ kind: 'text', bytes: plain(each.bytes), ends: places(each.ends) })
      case 'boolean':
        return { kind: 'boolean', values: plain(each.values) }
      case 'date':
        return { kind: 'date', values: numbers(each.values) }
      case 'moment': {
        const { at, length } = stretch(each.values)
        return { kind: 'moment', values: new BigInt64Array(own.buffer, at, length / 8) }
      }
      case 'number':
        return unpackColumn({ kind: 'number', scale: each.scale, values: numbers(each.values), wide: each.wide ?? [] })
    }
  }
  return {
    head: note.head,
    levels: note.levels.map(({ count, starts, columns }) => ({
      count,
      starts: places(starts),
      columns: Object.fromEntries(columns.map(each => [each.path, column(each)])),
    })),
  }
}

/** Texts one after the other, as a packed column holds them: see PackedColumn. */
function packTexts(values: readonly (string | null)[]): { bytes: Uint8Array; ends: Int32Array } & Partial<PackedColumn> {
  const ends = new Int32Array(values.length)
  let end = 0
  const parts: string[] = []
  values.forEach((value, index) => {
    if (value === null || value === undefined) ends[index] = -1 - end
    else {
      // a surrogate by itself becomes one unit of UTF-16 all the same (U+FFFD)
      parts.push(value)
      end += value.length
      ends[index] = end
    }
  })
  return { bytes: encoder.encode(parts.join('')), ends }
}
