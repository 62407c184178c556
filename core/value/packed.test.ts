import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Value } from './value'
import { valueAt } from './columns'
import { dayText } from './date'
import { decimal, type Decimal, decimalText, parseDecimal, trim } from './decimal'
import { buffersOf, columnBuilder, joinRows, type PackedRows, unpackColumn, ValueFault } from './packed'

const encoder = new TextEncoder()
/** Cells as they come over the wire: text in UTF-8, somewhere inside a longer stretch of bytes. */
function build(type: 'number' | 'text' | 'date' | 'boolean', cells: (string | null)[], scale?: number): PackedRows {
  const builder = columnBuilder(type, scale, 5000)
  for (const cell of cells) {
    if (cell === null) builder.empty()
    else {
      const bytes = encoder.encode(`?${cell}?`)
      builder.add(bytes, 1, bytes.length - 1)
    }
  }
  return { count: cells.length, columns: [builder.take()] }
}
const values = (rows: PackedRows): Value[] => {
  const column = unpackColumn(rows.columns[0]!)
  return Array.from({ length: rows.count }, (_, row) => valueAt(column, row))
}
const text = fc.string({ maxLength: 12, unit: 'grapheme' })
const number = fc.oneof(fc.integer(), fc.maxSafeInteger(), fc.bigInt({ min: -(10n ** 28n), max: 10n ** 28n }))

describe('columns from the wire', () => {
  it('texts come back as they were, in every script, with empty ones apart from blank ones', () => {
    fc.assert(
      fc.property(fc.array(fc.option(text), { maxLength: 40 }), cells => {
        expect(values(build('text', cells))).toEqual(cells)
      }),
    )
  })
  it('exact numbers keep every digit, small and wide', () => {
    fc.assert(
      fc.property(fc.array(fc.option(number), { maxLength: 40 }), fc.integer({ min: 0, max: 6 }), (units, scale) => {
        const cells = units.map(each => (each === null ? null : decimalText(decimal(each, scale))))
        expect(values(build('number', cells, scale)).map(value => (value === null ? null : decimalText(value as Decimal)))).toEqual(cells)
      }),
    )
  })
  it('numbers without declared digits take the most that are there', () => {
    expect(values(build('number', ['1.5', '-20', null, '0.125', '1e-7'])).map(value => value && decimalText(value as Decimal))).toEqual([
      '1.5000000',
      '-20.0000000',
      null,
      '0.1250000',
      '0.0000001',
    ])
  })
  it('a value with more digits than its column declares keeps them, and all others keep theirs', () => {
    const digits = fc.record({ units: number, scale: fc.integer({ min: 0, max: 30 }) })
    fc.assert(
      fc.property(fc.array(fc.option(digits), { maxLength: 20 }), fc.integer({ min: 0, max: 6 }), fc.nat(19), (cells, declared, cut) => {
        const written = cells.map(each => (each === null ? null : decimalText(decimal(each.units, each.scale))))
        const parts = [build('number', written.slice(0, cut), declared), build('number', written.slice(cut), declared)]
        const whole = joinRows(parts)
        written.forEach((wanted, row) => {
          const found = valueAt(whole.columns[0]!, row) as Decimal | null
          expect(found && decimalText(trim(found))).toBe(wanted && decimalText(trim(parseDecimal(wanted)!)))
        })
      }),
    )
    expect(values(build('number', ['1.500'], 2)).map(value => decimalText(value as Decimal))).toEqual(['1.500'])
  })
  it('what is no number or date of ours is refused, never read as empty', () => {
    for (const cell of ['NaN', 'Infinity', '-Infinity']) expect(() => build('number', ['1', cell], 2)).toThrow(ValueFault)
    for (const cell of ['infinity', '0044-03-15 BC', '12026-01-01']) expect(() => build('date', [cell])).toThrow(ValueFault)
  })
  it('dates and yes/no', () => {
    fc.assert(
      fc.property(fc.array(fc.option(fc.integer({ min: -100000, max: 100000 })), { maxLength: 30 }), days => {
        expect(
          values(
            build(
              'date',
              days.map(day => (day === null ? null : dayText(day))),
            ),
          ),
        ).toEqual(days)
      }),
    )
    expect(values(build('boolean', ['t', 'f', null]))).toEqual([true, false, null])
  })
  it('parts put together are the whole, and their buffers can be moved between threads', () => {
    fc.assert(
      fc.property(fc.array(fc.array(fc.option(number), { maxLength: 10 }), { minLength: 1, maxLength: 5 }), parts => {
        const packed = parts.map(part =>
          build(
            'number',
            part.map(each => (each === null ? null : String(each))),
            0,
          ),
        )
        const moved = packed.map(rows => structuredClone(rows, { transfer: buffersOf(rows) }))
        const whole = joinRows(moved)
        expect(
          Array.from({ length: whole.count }, (_, row) => valueAt(whole.columns[0]!, row)).map(value =>
            value === null ? null : String((value as Decimal).units),
          ),
        ).toEqual(parts.flat().map(each => (each === null ? null : String(each))))
      }),
    )
  })
})
