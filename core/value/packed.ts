import { appendColumn, type Column, type NumberColumn } from './columns'
import { parseDay } from './date'
import { noMoment, parseMoment } from './moment'
import { parseDecimal } from './decimal'
import type { ValueType } from './value'

/** A column on its way between threads: buffers that are moved, not copied. */
export type PackedColumn =
  | { kind: 'number'; scale: number; values: Float64Array; wide: [number, string][] }
  | { kind: 'date'; values: Float64Array }
  | { kind: 'moment'; values: BigInt64Array }
  | { kind: 'boolean'; values: Uint8Array }
  /** `ends`: where each text stops, in UTF-16 units; an empty one is written as −1 − end */
  | { kind: 'text'; bytes: Uint8Array; ends: Int32Array }

export interface PackedRows {
  count: number
  columns: PackedColumn[]
}

/** Collects the cells of one column, as the database writes them in text format. */
export interface ColumnBuilder {
  add(data: Uint8Array, from: number, to: number): void
  empty(): void
  take(): PackedColumn
}

const decoder = new TextDecoder()

export function columnBuilder(type: ValueType, scale: number | undefined, rows: number): ColumnBuilder {
  switch (type) {
    case 'number':
      return new Numbers(scale ?? 0, rows)
    case 'date':
      return new Dates(rows)
    case 'moment':
      return new Moments(rows)
    case 'boolean':
      return new Booleans(rows)
    case 'text':
      return new Texts(rows)
  }
}

/** A value that cannot be kept as it is: shown to whoever reads, with its column and row. */
export class ValueFault extends Error {
  constructor(
    readonly value: string,
    readonly wanted: 'number' | 'date' | 'moment',
  ) {
    super(`“${value}” is no ${wanted} that can be kept exactly`)
  }
}

/** Exact numbers: the scale that was declared grows where a value has more digits, so that none is ever lost (rule 43 of the semantics). */
class Numbers implements ColumnBuilder {
  private values: Float64Array
  private wide = new Map<number, bigint>()
  private count = 0
  private scale: number
  constructor(
    private readonly declared: number,
    private readonly rows: number,
  ) {
    this.scale = declared
    this.values = new Float64Array(rows)
  }

  add(data: Uint8Array, from: number, to: number): void {
    let at = from
    const negative = data[at] === 45
    if (negative) at++
    if (to - at > 15) return this.addText(data, from, to)
    let units = 0
    let digits = -1
    for (; at < to; at++) {
      const code = data[at]!
      if (code === 46) digits = 0
      else if (code >= 48 && code <= 57) {
        units = units * 10 + code - 48
        if (digits >= 0) digits++
      } else return this.addText(data, from, to)
    }
    const missing = this.scale - Math.max(digits, 0)
    if (missing < 0 || missing > 15) return this.addText(data, from, to)
    for (let left = missing; left > 0; left--) units *= 10
    if (units > 9007199254740991) return this.addText(data, from, to)
    this.values[this.count++] = negative && units !== 0 ? -units : units
  }

  private addText(data: Uint8Array, from: number, to: number): void {
    const text = decoder.decode(data.subarray(from, to))
    const value = parseDecimal(text)
    if (!value) throw new ValueFault(text, 'number')
    if (value.scale > this.scale) this.grow(value.scale)
    this.put(BigInt(value.units) * 10n ** BigInt(this.scale - value.scale))
  }

  private put(units: bigint): void {
    if (units >= -9007199254740991n && units <= 9007199254740991n) this.values[this.count++] = Number(units)
    else {
      this.wide.set(this.count, units)
      this.values[this.count++] = Infinity
    }
  }

  /** All that is there is written with more digits. */
  private grow(scale: number): void {
    const factor = 10n ** BigInt(scale - this.scale)
    const { values, wide, count } = this
    this.scale = scale
    this.wide = new Map()
    this.count = 0
    while (this.count < count) {
      const at = this.count
      const units = values[at]!
      if (units !== units) this.empty()
      else this.put((units === Infinity ? wide.get(at)! : BigInt(units)) * factor)
    }
  }

  empty(): void {
    this.values[this.count++] = NaN
  }

  take(): PackedColumn {
    const wide = Array.from(this.wide, ([row, units]): [number, string] => [row, String(units)])
    const packed: PackedColumn = { kind: 'number', scale: this.scale, values: this.values.slice(0, this.count), wide }
    this.values = new Float64Array(this.rows)
    this.wide = new Map()
    this.count = 0
    this.scale = this.declared
    return packed
  }
}

class Dates implements ColumnBuilder {
  private values: Float64Array
  private count = 0
  private readonly known = new Map<number, number>()
  constructor(private readonly rows: number) {
    this.values = new Float64Array(rows)
  }

  add(data: Uint8Array, from: number, to: number): void {
    let code = 0
    for (let at = from; at < to; at++) if (data[at] !== 45) code = code * 10 + data[at]! - 48
    let day = to - from === 10 ? this.known.get(code) : undefined
    if (day === undefined) {
      const text = decoder.decode(data.subarray(from, to))
      // a moment that is read as a date is at midnight; one that is not has more to say
      day = parseDay(text.replace(/ 00:00:00$/, ''))
      if (day === undefined) throw new ValueFault(text, 'date')
      if (to - from === 10) this.known.set(code, day)
    }
    this.values[this.count++] = day
  }

  empty(): void {
    this.values[this.count++] = NaN
  }

  take(): PackedColumn {
    const packed: PackedColumn = { kind: 'date', values: this.values.slice(0, this.count) }
    this.count = 0
    return packed
  }
}

class Moments implements ColumnBuilder {
  private values: BigInt64Array
  private count = 0
  constructor(rows: number) {
    this.values = new BigInt64Array(rows)
  }

  add(data: Uint8Array, from: number, to: number): void {
    const text = decoder.decode(data.subarray(from, to))
    const moment = parseMoment(text)
    if (moment === undefined) throw new ValueFault(text, 'moment')
    this.values[this.count++] = moment
  }

  empty(): void {
    this.values[this.count++] = noMoment
  }

  take(): PackedColumn {
    const packed: PackedColumn = { kind: 'moment', values: this.values.slice(0, this.count) }
    this.count = 0
    return packed
  }
}

class Booleans implements ColumnBuilder {
  private values: Uint8Array
  private count = 0
  constructor(rows: number) {
    this.values = new Uint8Array(rows)
  }

  add(data: Uint8Array, from: number): void {
    this.values[this.count++] = data[from] === 116 ? 1 : 0
  }

  empty(): void {
    this.values[this.count++] = 2
  }

  take(): PackedColumn {
    const packed: PackedColumn = { kind: 'boolean', values: this.values.slice(0, this.count) }
    this.count = 0
    return packed
  }
}

class Texts implements ColumnBuilder {
  private bytes = new Uint8Array(1 << 16)
  private length = 0
  private end = 0
  private ends: Int32Array
  private count = 0
  constructor(private readonly rows: number) {
    this.ends = new Int32Array(rows)
  }

  add(data: Uint8Array, from: number, to: number): void {
    const needed = this.length + to - from
    if (needed > this.bytes.length) {
      const larger = new Uint8Array(Math.max(needed, this.bytes.length * 2))
      larger.set(this.bytes.subarray(0, this.length))
      this.bytes = larger
    }
    const { bytes } = this
    let { length, end } = this
    for (let at = from; at < to; at++) {
      const byte = data[at]!
      bytes[length++] = byte
      // a character begins at each byte that is no continuation; those of four bytes take two units
      if ((byte & 0xc0) !== 0x80) end += byte >= 0xf0 ? 2 : 1
    }
    this.length = length
    this.end = end
    this.ends[this.count++] = end
  }

  empty(): void {
    this.ends[this.count++] = -1 - this.end
  }

  take(): PackedColumn {
    const packed: PackedColumn = { kind: 'text', bytes: this.bytes.slice(0, this.length), ends: this.ends.slice(0, this.count) }
    this.length = this.end = this.count = 0
    this.ends = new Int32Array(this.rows)
    return packed
  }
}

/** Buffers to be moved with a message. */
export function buffersOf(rows: PackedRows): ArrayBuffer[] {
  return rows.columns.flatMap(column =>
    column.kind === 'text' ? [column.bytes.buffer, column.ends.buffer] : [column.values.buffer],
  ) as ArrayBuffer[]
}

export function unpackColumn(packed: PackedColumn): Column {
  if (packed.kind === 'text') {
    const all = decoder.decode(packed.bytes)
    const values = new Array<string | null>(packed.ends.length)
    let from = 0
    for (let i = 0; i < values.length; i++) {
      const end = packed.ends[i]!
      if (end < 0) values[i] = null
      else {
        values[i] = all.slice(from, end)
        from = end
      }
    }
    return { kind: 'text', values }
  }
  if (packed.kind !== 'number') return packed
  const column: NumberColumn = { kind: 'number', scale: packed.scale, values: packed.values }
  if (packed.wide.length) column.wide = new Map(packed.wide.map(([row, units]) => [row, BigInt(units)]))
  return column
}

/** The rows of several parts as one. */
export function joinRows(parts: readonly PackedRows[]): { count: number; columns: Column[] } {
  const count = parts.reduce((sum, part) => sum + part.count, 0)
  const columns = (parts[0]?.columns ?? []).map((first, index): Column => {
    const each = parts.map(part => unpackColumn(part.columns[index]!))
    if (each.length === 1) return each[0]!
    if (first.kind === 'text') {
      const texts = new Array<string | null>(count)
      let at = 0
      for (const column of each) for (const text of (column as { values: (string | null)[] }).values) texts[at++] = text
      return { kind: 'text', values: texts }
    }
    const simple = each.every(column => column.kind !== 'number' || (!column.wide && column.scale === (each[0] as NumberColumn).scale))
    if (!simple) return each.reduce(appendColumn)
    const values: Uint8Array | Float64Array | BigInt64Array =
      first.kind === 'boolean' ? new Uint8Array(count) : first.kind === 'moment' ? new BigInt64Array(count) : new Float64Array(count)
    let at = 0
    for (const column of each) {
      ;(values as Float64Array).set((column as NumberColumn).values, at)
      at += (column as NumberColumn).values.length
    }
    return { ...each[0]!, values } as Column
  })
  return { count, columns }
}
