import fc from 'fast-check'
import { addMonths as libraryAddMonths } from 'date-fns'
import { describe, expect, it } from 'vitest'
import { addMonths, dateParts, dayOf, dayText, monthEnd, monthStart, parseDay } from './date'

const day = fc.integer({ min: -200000, max: 200000 })
const native = (date: number) => new Date(date * 86400000)

describe('calendar dates agree with the platform calendar', () => {
  it('splits and joins', () => {
    fc.assert(
      fc.property(day, date => {
        const { year, month, day: d } = dateParts(date)
        expect([year, month, d]).toEqual([native(date).getUTCFullYear(), native(date).getUTCMonth() + 1, native(date).getUTCDate()])
        expect(dayOf(year, month, d)).toBe(date)
        expect(parseDay(dayText(date))).toBe(date)
      }),
    )
  })
  it('adds months as a date library does', () => {
    fc.assert(
      fc.property(day, fc.integer({ min: -60, max: 60 }), (date, months) => {
        const { year, month, day: d } = dateParts(date)
        const expected = libraryAddMonths(new Date(year, month - 1, d), months)
        expect(dateParts(addMonths(date, months))).toEqual({
          year: expected.getFullYear(),
          month: expected.getMonth() + 1,
          day: expected.getDate(),
        })
      }),
    )
  })
  it('knows the ends of a month', () => {
    fc.assert(
      fc.property(day, date => {
        expect(dateParts(monthStart(date)).day).toBe(1)
        expect(dateParts(monthEnd(date) + 1).day).toBe(1)
        expect(monthStart(date) <= date && date <= monthEnd(date)).toBe(true)
      }),
    )
  })
  it.each(['2026-13-01', '2026-02-30', '26-01-01', 'October', ''])('refuses %j', text => {
    expect(parseDay(text)).toBeUndefined()
  })
})
