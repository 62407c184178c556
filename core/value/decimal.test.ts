import fc from 'fast-check'
import { Decimal as Wide } from 'decimal.js'
import { describe, expect, it } from 'vitest'
import {
  absolute,
  add,
  ceiling,
  compareDecimals,
  decimal,
  decimalText,
  divide,
  floor,
  multiply,
  parseDecimal,
  round,
  subtract,
} from './decimal'

const Exact = Wide.clone({ precision: 200, rounding: Wide.ROUND_HALF_UP })
const decimals = fc
  .record({
    units: fc.oneof(fc.integer(), fc.maxSafeInteger(), fc.bigInt({ min: -(10n ** 30n), max: 10n ** 30n })),
    scale: fc.integer({ min: 0, max: 18 }),
  })
  .map(({ units, scale }) => decimal(units, scale))
const wide = (a: Parameters<typeof decimalText>[0]) => new Exact(decimalText(a))

describe('exact decimals agree with a wide decimal library', () => {
  it('adds, subtracts and multiplies without losing a digit', () => {
    fc.assert(
      fc.property(decimals, decimals, (a, b) => {
        expect(wide(add(a, b)).equals(wide(a).plus(wide(b)))).toBe(true)
        expect(wide(subtract(a, b)).equals(wide(a).minus(wide(b)))).toBe(true)
        expect(wide(multiply(a, b)).equals(wide(a).times(wide(b)))).toBe(true)
        expect(compareDecimals(a, b)).toBe(wide(a).comparedTo(wide(b)))
      }),
    )
  })
  it('divides to twelve digits, half away from zero', () => {
    fc.assert(
      fc.property(decimals, decimals, (a, b) => {
        const quotient = divide(a, b)
        if (wide(b).isZero()) expect(quotient).toBeUndefined()
        else expect(wide(quotient!).toFixed()).toBe(wide(a).dividedBy(wide(b)).toDecimalPlaces(12).toFixed())
      }),
    )
  })
  it('rounds half away from zero, to tens too', () => {
    fc.assert(
      fc.property(decimals, fc.integer({ min: -4, max: 20 }), (a, scale) => {
        const shift = new Exact(10).pow(scale)
        expect(wide(round(a, scale)).equals(wide(a).times(shift).toDecimalPlaces(0).dividedBy(shift))).toBe(true)
      }),
    )
  })
  it('finds floor, ceiling and size', () => {
    fc.assert(
      fc.property(decimals, a => {
        expect(wide(floor(a)).equals(wide(a).floor())).toBe(true)
        expect(wide(ceiling(a)).equals(wide(a).ceil())).toBe(true)
        expect(wide(absolute(a)).equals(wide(a).abs())).toBe(true)
      }),
    )
  })
  it('reads back what it writes', () => {
    fc.assert(
      fc.property(decimals, a => {
        expect(decimalText(parseDecimal(decimalText(a))!)).toBe(decimalText(a))
      }),
    )
  })
  it.each(['', '.', '12a', '1e', '--3', '1,5'])('refuses %j', text => {
    expect(parseDecimal(text)).toBeUndefined()
  })
})
