import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dayText, parseDay } from '../value/date'
import { answerFrom, dayFrom, emptyWords, isEmptyWord, isPlainMoment, markOf, momentFrom, numberShape, plainNumber } from './cells'
import { momentText, parseMoment } from '../value/moment'

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

describe('what is written as most are', () => {
  const number = fc.string({ unit: fc.constantFrom(...'0123456789.,-+ '), maxLength: 8 })
  it('is a number where its digits and its one mark say so', () => {
    fc.assert(
      fc.property(number, text => {
        const plain = /^-?\d+(?:\.(\d+))?$/.exec(text)
        expect(markOf(text, 46)).toBe(plain ? (plain[1] === undefined ? text.length : text.length - plain[1].length - 1) : -1)
        for (const decimal of ['.', ','] as const) {
          const found = plainNumber(text, decimal)
          expect(numberShape(text, decimal)).toEqual(
            found === undefined ? undefined : { digits: found.replace(/^-|\..*$/g, '').length, scale: (found.split('.')[1] ?? '').length },
          )
        }
      }),
      { numRuns: 3000 },
    )
  })

  it('is a date of the calendar, with or without a time', () => {
    const part = (most: number, width: number) => fc.nat(most).map(each => String(each).padStart(width, '0'))
    const day = fc
      .tuple(part(2105, 4), part(13, 2), part(32, 2))
      .filter(([year]) => year !== '0000')
      .map(parts => parts.join('-'))
    fc.assert(
      fc.property(day, fc.tuple(part(25, 2), part(61, 2), part(61, 2)), (date, time) => {
        const moment = `${date} ${time.join(':')}`
        expect(isPlainMoment(date, 'date')).toBe(parseDay(date) !== undefined)
        expect(isPlainMoment(moment, 'moment')).toBe(parseMoment(moment) !== undefined)
        expect([isPlainMoment(date, 'moment'), isPlainMoment(moment, 'date')]).toEqual([false, false])
      }),
      { numRuns: 3000 },
    )
    for (const text of ['2026-3-31', '2026/03/31', '2026-03-31T10:00:00', '2026-03-31 10:00', 'abcd-ef-gh', ''])
      expect(isPlainMoment(text, 'date') || isPlainMoment(text, 'moment')).toBe(false)
  })

  it('is an empty word only where the list has it', () => {
    fc.assert(
      fc.property(
        fc.oneof(fc.string({ maxLength: 9 }), fc.constantFrom(...emptyWords), fc.constantFrom(' NULL', 'N/a ', '0', 'no')),
        text => {
          expect(isEmptyWord(text)).toBe(text.length < 8 && emptyWords.has(text.trim().toLowerCase()))
        },
      ),
    )
  })
})
