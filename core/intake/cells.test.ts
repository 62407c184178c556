import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dayText } from '../value/date'
import { answerFrom, dayFrom, momentFrom, plainNumber } from './cells'
import { momentText } from '../value/moment'

/** Digits in groups of three, as people write them. */
const grouped = (digits: string, mark: string) => digits.replace(/\B(?=(\d{3})+$)/g, mark)

describe('numbers as they are written', () => {
  it('keep every digit, whatever marks they are written with', () => {
    fc.assert(
      fc.property(
        fc.bigInt({ min: 0n, max: 10n ** 40n }).map(String),
        fc.array(fc.nat(9), { maxLength: 20 }).map(each => each.join('')),
        fc.constantFrom<['.' | ',', string]>(['.', ','], ['.', ' '], ['.', '’'], ['.', ''], [',', '.'], [',', '\u00a0'], [',', '']),
        fc.constantFrom('', '-', 'after', 'around', '−', '+'),
        (whole, rest, [decimal, mark], sign) => {
          const size = `${grouped(whole, mark)}${rest ? decimal + rest : ''}`
          const text = sign === 'after' ? `${size}-` : sign === 'around' ? `(${size})` : `${sign}${size}`
          const negative = sign !== '' && sign !== '+'
          expect(plainNumber(` ${text} `, decimal)).toBe(`${negative ? '-' : ''}${whole}${rest ? `.${rest}` : ''}`)
        },
      ),
      { numRuns: 3000 },
    )
  })
  it.each(['1,23', '12,34,567', '1.2.3', '1,234.', '.', '-', '', '12a', '1e5', '(-1)', '--1', '1 23', '١٢', '1,2345.0', '0x10', '€ 5'])(
    '%j is none',
    text => {
      expect(plainNumber(text, '.')).toBeUndefined()
    },
  )
})

describe('days as they are written', () => {
  it('in each order are the day that the calendar has', () => {
    fc.assert(
      fc.property(
        fc.date({ min: new Date('0100-01-01'), max: new Date('9999-12-31'), noInvalidDate: true }),
        fc.constantFrom('/', '-', '.'),
        (date, mark) => {
          const iso = date.toISOString().slice(0, 10)
          const [y, m, d] = iso.split('-') as [string, string, string]
          expect(dayText(dayFrom([y, m, d].join(mark), 'ymd')!)).toBe(iso)
          expect(dayText(dayFrom([d, m, y].join(mark), 'dmy')!)).toBe(iso)
          expect(dayText(dayFrom([m, d, y].join(mark), 'mdy')!)).toBe(iso)
          expect(dayText(dayFrom(`${Number(d)}${mark}${Number(m)}${mark}${y}`, 'dmy')!)).toBe(iso)
        },
      ),
    )
  })
  it.each(['2026-02-29', '31/04/2026', '00/01/2026', '1/1/26', '2026-1/1', '12:30', '20260101', '1-2-3', '2026-01-01 10:30'])(
    '%j is none',
    text => {
      expect(dayFrom(text, 'ymd') ?? dayFrom(text, 'dmy')).toBeUndefined()
    },
  )
  it('at midnight are the day', () => {
    expect(dayText(dayFrom('2026-03-31 00:00:00', 'ymd')!)).toBe('2026-03-31')
  })
})

it('yes and no are words, never digits', () => {
  expect(['Yes', 'sim', 'TRUE', 'não', 'n', '1', 'maybe'].map(answerFrom)).toEqual([true, true, true, false, false, undefined, undefined])
})

describe('a date with a time', () => {
  it.each([
    ['2026-03-31 09:30', 'ymd', '2026-03-31 09:30:00'],
    ['2026-03-31T09:30:15.250', 'ymd', '2026-03-31 09:30:15.25'],
    ['31/03/2026 9:30', 'dmy', '2026-03-31 09:30:00'],
    ['3/31/2026 12:05 AM', 'mdy', '2026-03-31 00:05:00'],
    ['3/31/2026, 12:05:59 p.m.', 'mdy', '2026-03-31 12:05:59'],
    ['31.03.2026', 'dmy', '2026-03-31 00:00:00'],
    ['31.03.2026 00:00:00', 'dmy', '2026-03-31 00:00:00'],
  ] as const)('%s (%s) is %s', (cell, order, wanted) => {
    expect(momentText(momentFrom(cell, order)!)).toBe(wanted)
  })

  it.each([
    '2026-03-31 24:00',
    '2026-03-31 9:60',
    '2026-03-31 13:00 PM',
    '2026-03-31 09:30Z',
    '2026-03-31 09:30+02:00',
    '2026-03-31 9',
    '09:30',
    '',
  ])('%s is none', cell => {
    for (const order of ['ymd', 'dmy', 'mdy'] as const) expect(momentFrom(cell, order)).toBeUndefined()
  })
})
