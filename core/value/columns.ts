import { type Decimal, decimal, negate, subtract } from './decimal'
import { type Moment, noMoment } from './moment'
import type { Value, ValueType } from './value'

/** Exact numbers of one scale. A slot is NaN where empty and Infinity where the value stands in `wide`. */
export interface NumberColumn {
  kind: 'number'
  scale: number
  values: Float64Array
  wide?: Map<number, bigint>
}
/** Days since 1970-01-01, NaN where empty. */
export interface DateColumn {
  kind: 'date'
  values: Float64Array
}
/** Microseconds since 1970-01-01 00:00; `noMoment` where empty. */
export interface MomentColumn {
  kind: 'moment'
  values: BigInt64Array
}
/** 0, 1, or 2 where empty. */
export interface BooleanColumn {
  kind: 'boolean'
  values: Uint8Array
}
export interface TextColumn {
  kind: 'text'
  values: (string | null)[]
}
export type Column = NumberColumn | DateColumn | MomentColumn | BooleanColumn | TextColumn

/** The value of one slot. */
export function valueAt(column: Column, row: number): Value {
  switch (column.kind) {
    case 'text':
      return column.values[row] ?? null
    case 'number': {
      const units = column.values[row]!
      if (units !== units) return null
      if (units === Infinity) return decimal(column.wide!.get(row)!, column.scale)
      return { units, scale: column.scale }
    }
    case 'date': {
      const day = column.values[row]!
      return day !== day ? null : day
    }
    case 'moment': {
      const moment = column.values[row]!
      return moment === noMoment ? null : moment
    }
    case 'boolean': {
      const state = column.values[row]!
      return state === 2 ? null : state === 1
    }
  }
}

/** A column with the given rows of another, in the given order. */
export function takeRows(column: Column, rows: ArrayLike<number>): Column {
  const n = rows.length
  if (column.kind === 'text') {
    const values = new Array<string | null>(n)
    for (let i = 0; i < n; i++) values[i] = column.values[rows[i]!]!
    return { kind: 'text', values }
  }
  if (column.kind === 'boolean') {
    const values = new Uint8Array(n)
    for (let i = 0; i < n; i++) values[i] = column.values[rows[i]!]!
    return { kind: 'boolean', values }
  }
  if (column.kind === 'moment') {
    const values = new BigInt64Array(n)
    for (let i = 0; i < n; i++) values[i] = column.values[rows[i]!]!
    return { kind: 'moment', values }
  }
  const values = new Float64Array(n)
  for (let i = 0; i < n; i++) values[i] = column.values[rows[i]!]!
  if (column.kind === 'date') return { kind: 'date', values }
  const taken: NumberColumn = { kind: 'number', scale: column.scale, values }
  if (column.wide) {
    taken.wide = new Map()
    for (let i = 0; i < n; i++) if (values[i] === Infinity) taken.wide.set(i, column.wide.get(rows[i]!)!)
  }
  return taken
}

/** One column after another; number columns are brought to the larger scale. */
export function appendColumn(a: Column, b: Column): Column {
  if (a.kind === 'text' && b.kind === 'text') return { kind: 'text', values: a.values.concat(b.values) }
  if (a.kind === 'boolean' && b.kind === 'boolean') {
    const values = new Uint8Array(a.values.length + b.values.length)
    values.set(a.values)
    values.set(b.values, a.values.length)
    return { kind: 'boolean', values }
  }
  if (a.kind === 'number' && b.kind === 'number') {
    const scale = Math.max(a.scale, b.scale)
    const [x, y] = [rescale(a, scale), rescale(b, scale)]
    const values = new Float64Array(x.values.length + y.values.length)
    values.set(x.values)
    values.set(y.values, x.values.length)
    const wide = new Map(x.wide)
    y.wide?.forEach((units, row) => wide.set(row + x.values.length, units))
    return wide.size ? { kind: 'number', scale, values, wide } : { kind: 'number', scale, values }
  }
  if (a.kind === 'date' && b.kind === 'date') {
    const values = new Float64Array(a.values.length + b.values.length)
    values.set(a.values)
    values.set(b.values, a.values.length)
    return { kind: 'date', values }
  }
  if (a.kind === 'moment' && b.kind === 'moment') {
    const values = new BigInt64Array(a.values.length + b.values.length)
    values.set(a.values)
    values.set(b.values, a.values.length)
    return { kind: 'moment', values }
  }
  throw new TypeError(`A ${a.kind} column cannot go on as ${b.kind}.`)
}

/** The same numbers at a larger scale, however much larger it is. */
function rescale(column: NumberColumn, scale: number): NumberColumn {
  const more = scale - column.scale
  if (!more) return column
  const [factor, exact] = [more <= 15 ? 10 ** more : Infinity, 10n ** BigInt(more)]
  const wide = new Map<number, bigint>()
  const values = column.values.map((units, row) => {
    if (units !== units || units === 0) return units
    const raised = units * factor
    if (units !== Infinity && Number.isSafeInteger(raised)) return raised
    wide.set(row, (units === Infinity ? column.wide!.get(row)! : BigInt(units)) * exact)
    return Infinity
  })
  return wide.size ? { kind: 'number', scale, values, wide } : { kind: 'number', scale, values }
}

/** A column of the given type holding these values; numbers take the largest scale among them. */
export function columnOf(type: ValueType, values: readonly Value[]): Column {
  switch (type) {
    case 'text':
      return { kind: 'text', values: values as (string | null)[] }
    case 'boolean':
      return { kind: 'boolean', values: Uint8Array.from(values, value => (value === null ? 2 : value ? 1 : 0)) }
    case 'date':
      return { kind: 'date', values: Float64Array.from(values, value => (value === null ? NaN : (value as number))) }
    case 'moment':
      return { kind: 'moment', values: BigInt64Array.from(values, value => (value === null ? noMoment : (value as Moment))) }
    case 'number': {
      const scale = values.reduce<number>((most, value) => Math.max(most, (value as Decimal | null)?.scale ?? 0), 0)
      const wide = new Map<number, bigint>()
      const units = Float64Array.from(values, (value, row) => {
        if (value === null) return NaN
        const raised = subtract({ units: 0, scale }, negate(value as Decimal)).units
        if (typeof raised === 'number') return raised
        wide.set(row, raised)
        return Infinity
      })
      return wide.size ? { kind: 'number', scale, values: units, wide } : { kind: 'number', scale, values: units }
    }
  }
}
