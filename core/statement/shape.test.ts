import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compareDecimals, decimal, round, toNumber } from '../value/decimal'
import { spread } from './shape'

describe('rounding that adds up (largest remainder)', () => {
  const cents = fc.integer({ min: -10_000_000, max: 10_000_000 })
  it('comes to the target, each figure within one step of its own', () => {
    fc.assert(fc.property(fc.array(cents, { minLength: 1, maxLength: 30 }), fc.integer({ min: 0, max: 1 }), (values, scale) => {
      const own = values.map(value => decimal(value, 5))
      const target = round(decimal(values.reduce((sum, value) => sum + value, 0), 5), scale)
      const found = spread(own, target, scale)
      const total = found.reduce((sum, value) => sum + toNumber(value), 0)
      if (values.some(value => value !== 0)) expect(total).toBeCloseTo(toNumber(target), 6)
      found.forEach((value, index) => expect(Math.abs(toNumber(value) - values[index]! / 1e5)).toBeLessThan(1.5 * 10 ** -scale + 1e-9))
    }))
  })
  it('leaves figures alone where they add up by themselves, and nothing stays nothing', () => {
    fc.assert(fc.property(fc.array(fc.integer({ min: -1000, max: 1000 }), { minLength: 1, maxLength: 12 }), (values) => {
      const own = values.map(value => decimal(value, 0))
      const found = spread(own, decimal(values.reduce((sum, value) => sum + value, 0), 0), 0)
      found.forEach((value, index) => expect(compareDecimals(value, own[index]!)).toBe(0))
    }))
    expect(spread([decimal(0, 0), decimal(14, 1), decimal(14, 1)], decimal(3, 0), 0).map(toNumber)).toEqual([0, 2, 1])
  })
})
