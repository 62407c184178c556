import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compareText } from './text'
import { compareDecimals, decimal, type Decimal } from './decimal'
import { sortedRows } from '../read/read'
import { appendColumn, type Column, columnOf, takeRows, valueAt } from './columns'
import { parentRows } from './records'
import type { Value } from './value'

const cells = {
  number: fc.option(
    fc
      .record({
        units: fc.oneof(fc.integer(), fc.bigInt({ min: -(10n ** 24n), max: 10n ** 24n })),
        scale: fc.oneof(fc.integer({ min: 0, max: 4 }), fc.integer({ min: 20, max: 320 })),
      })
      .map(({ units, scale }) => decimal(units, scale)),
  ),
  text: fc.option(fc.string({ maxLength: 5, unit: 'grapheme' })),
  date: fc.option(fc.integer({ min: -50000, max: 50000 })),
  boolean: fc.option(fc.boolean()),
}
const column = fc
  .constantFrom('number' as const, 'text' as const, 'date' as const, 'boolean' as const)
  .chain(type => fc.array(cells[type] as fc.Arbitrary<Value>, { minLength: 1, maxLength: 30 }).map(values => ({ type, values })))
const all = (of: Column, count: number) => Array.from({ length: count }, (_, row) => valueAt(of, row))
const same = (a: Value, b: Value) =>
  a !== null && b !== null && typeof a === 'object' && typeof b === 'object' ? compareDecimals(a, b) === 0 : a === b

describe('columns', () => {
  it('hold what was put into them', () => {
    fc.assert(
      fc.property(column, ({ type, values }) => {
        const held = all(columnOf(type, values), values.length)
        values.forEach((value, row) => expect(same(held[row]!, value)).toBe(true))
      }),
    )
  })
  it('go on as one column, however far apart their scales lie', () => {
    fc.assert(
      fc.property(fc.array(cells.number), fc.array(cells.number), (first, second) => {
        const joined = all(appendColumn(columnOf('number', first), columnOf('number', second)), first.length + second.length)
        ;[...first, ...second].forEach((value, row) => expect(same(joined[row]!, value)).toBe(true))
      }),
    )
  })
  it('give the rows that are taken, in that order, more than once too', () => {
    fc.assert(
      fc.property(column, fc.array(fc.nat(29), { maxLength: 40 }), ({ type, values }, wanted) => {
        const rows = wanted.map(row => row % values.length)
        const taken = all(takeRows(columnOf(type, values), rows), rows.length)
        rows.forEach((row, index) => expect(same(taken[index]!, values[row]!)).toBe(true))
      }),
    )
  })
})

it('rows are sorted stably by several columns, empty ones last in either direction', () => {
  fc.assert(
    fc.property(fc.array(fc.tuple(cells.number, cells.text), { maxLength: 30 }), fc.boolean(), fc.boolean(), (rows, first, second) => {
      const sorted = sortedRows(rows.length, [
        {
          column: columnOf(
            'number',
            rows.map(row => row[0]),
          ),
          descending: first,
        },
        {
          column: columnOf(
            'text',
            rows.map(row => row[1]),
          ),
          descending: second,
        },
      ])
      const compared = <T>(a: T | null, b: T | null, compare: (a: T, b: T) => number, down: boolean) =>
        a === null || b === null ? (a === b ? 0 : a === null ? 1 : -1) : compare(a, b) * (down ? -1 : 1)
      const naive = rows
        .map((row, index) => ({ row, index }))
        .sort(
          (a, b) =>
            compared<Decimal>(a.row[0], b.row[0], compareDecimals, first) ||
            compared<string>(a.row[1], b.row[1], compareText, second) ||
            a.index - b.index,
        )
      expect([...sorted]).toEqual(naive.map(each => each.index))
    }),
  )
})

it('parents of records follow from where each stretch starts', () => {
  fc.assert(
    fc.property(fc.array(fc.nat(5), { maxLength: 20 }), sizes => {
      const starts = sizes.reduce((list, size) => [...list, list.at(-1)! + size], [0])
      expect([...parentRows({ count: starts.at(-1)!, columns: {}, starts: Int32Array.from(starts) })]).toEqual(
        sizes.flatMap((size, parent) => Array<number>(size).fill(parent)),
      )
    }),
  )
})
