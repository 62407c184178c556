import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dateFormat, momentFormat } from './dateFormat'
import { dayOf } from './date'
import { clockParts, dayOfMoment, firstMoment, lastMoment, momentText, parseMoment, serialOf, startOfDay } from './moment'

const anyMoment = fc.bigInt({ min: firstMoment, max: lastMoment })

describe('a date with a time', () => {
  it('is written and read without losing a digit, as the platform writes it in UTC', () => {
    fc.assert(
      fc.property(anyMoment, moment => {
        expect(parseMoment(momentText(moment))).toBe(moment)
        expect(parseMoment(momentText(moment, 'T'))).toBe(moment)
        const milliseconds = moment / 1000n - (moment % 1000n < 0n ? 1n : 0n)
        const platform = new Date(Number(milliseconds)).toISOString()
        expect(momentText(moment, 'T').slice(0, 19)).toBe(platform.slice(0, 19))
        const { hour, minute, second } = clockParts(moment)
        const date = new Date(Number(milliseconds))
        expect([hour, minute, second]).toEqual([date.getUTCHours(), date.getUTCMinutes(), date.getUTCSeconds()])
        expect(startOfDay(dayOfMoment(moment)) <= moment && moment < startOfDay(dayOfMoment(moment) + 1)).toBe(true)
      }),
    )
  })

  it.each([
    ['2026-03-29 01:30', '2026-03-29 01:30:00'],
    ['2026-03-29T01:30:07.25', '2026-03-29 01:30:07.25'],
    ['2026-03-29 01:30:07.123456000', '2026-03-29 01:30:07.123456'],
    ['2026-03-29', '2026-03-29 00:00:00'],
    ['9999-12-31 23:59:59.999999', '9999-12-31 23:59:59.999999'],
  ])('%s is read as %s', (text, wanted) => {
    expect(momentText(parseMoment(text)!)).toBe(wanted)
  })

  it.each([
    '2026-02-30 10:00',
    '2026-03-29 24:00',
    '2026-03-29 10:60',
    '2026-03-29 10:00:61',
    '2026-03-29 10:00:00.1234567',
    '10000-01-01 00:00:00',
    'infinity',
    '2026-03',
    '2026-03-29 10',
    '2026-03-29 10:00+01',
    '',
  ])('%s is none', text => {
    expect(parseMoment(text)).toBeUndefined()
  })

  it('is printed on every machine alike, also in hours that its zone leaves out, and in the first century', () => {
    const print = momentFormat('d MMM y HH:mm:ss.SSS', 'en')
    fc.assert(
      fc.property(anyMoment, moment => {
        const { hour, minute, second, micro } = clockParts(moment)
        const two = (value: number) => String(value).padStart(2, '0')
        expect(print(moment).split(' ')[3]).toBe(
          `${two(hour)}:${two(minute)}:${two(second)}.${String(Math.floor(micro / 1000)).padStart(3, '0')}`,
        )
      }),
    )
    expect(momentFormat('d MMM y HH:mm', 'pt')(parseMoment('2026-03-29 01:30')!)).toBe('29 mar 2026 01:30')
    expect(dateFormat('d MMM y', 'en')(dayOf(47, 3, 15))).toBe('15 Mar 47')
  })

  it('is a serial number of a spreadsheet with its time', () => {
    expect(serialOf(parseMoment('1900-03-01 12:00')!)).toBe(61.5)
    expect(serialOf(parseMoment('2026-03-29 06:00')!)).toBe(46110.25)
  })
})
