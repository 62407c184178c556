import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dateFormat } from './dateFormat'
import { parseDay } from './date'
import { decimal, parseDecimal } from './decimal'
import { numberFormat, PatternError } from './numberFormat'

describe('number patterns', () => {
  it('agree with the platform in three languages', () => {
    const cents = fc.integer({ min: -99999999999, max: 99999999999 })
    for (const language of ['en-GB', 'pt-PT', 'nb-NO']) {
      const ours = numberFormat('#,##0.00', language)
      const platform = new Intl.NumberFormat(language, {
        minimumFractionDigits: 2,
        maximumFractionDigits: 2,
        useGrouping: 'always' as never,
      })
      fc.assert(
        fc.property(cents, units => {
          expect(ours(decimal(units, 2)).replace('−', '-')).toBe(platform.format(units / 100).replace('−', '-'))
        }),
      )
    }
  })
  it.each([
    ['#,##0.00;(#,##0.00)', '-1234.5', '(1,234.50)'],
    ['#,##0.###', '1200.5000', '1,200.5'],
    ['#.##', '0.5', '.5'],
    ['0000', '42', '0042'],
    ['0.0 %', '0.0825', '8.3 %'],
    ["#,##0 'pc'", '1200', '1,200 pc'],
    ['0.00', '-0.004', '0.00'],
    ['0', '0.5', '1'],
    ['0', '-0.5', '−1'],
  ])('%s prints %s as %s', (pattern, value, expected) => {
    expect(numberFormat(pattern, 'en')(parseDecimal(value)!)).toBe(expected)
  })
  it('keeps every digit beyond the reach of doubles', () => {
    expect(numberFormat('#,##0.00', 'en')(parseDecimal('12345678901234567890.125')!)).toBe('12,345,678,901,234,567,890.13')
  })
  it('prints the third part for what rounds to zero', () => {
    const print = (value: string) => numberFormat("#,##0.00;(#,##0.00);'no 'amount", 'en')(parseDecimal(value)!)
    expect(['0', '0.004', '-0.004', '0.005', '-1', '1234.5'].map(print)).toEqual([
      'no amount',
      'no amount',
      'no amount',
      '0.01',
      '(1.00)',
      '1,234.50',
    ])
  })
  it.each(['', 'abc', '0;0;0;0', '0.0.0'])('refuses %j with a sentence', pattern => {
    expect(() => numberFormat(pattern, 'en')).toThrow(PatternError)
  })
})

describe('date patterns', () => {
  it.each([
    ['d MMM y', 'en', '5 Oct 2026'],
    ["d 'de' MMMM 'de' y", 'pt', '5 de outubro de 2026'],
    ['yyyy-MM-dd', 'nb', '2026-10-05'],
  ])('%s in %s', (pattern, language, expected) => {
    expect(dateFormat(pattern, language)(parseDay('2026-10-05')!)).toBe(expected)
  })
  it('refuses an unreadable pattern with a sentence', () => {
    expect(() => dateFormat('qqqqqqqqqqq nonsense', 'en')).toThrow(PatternError)
  })
})
