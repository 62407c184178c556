import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dayText, parseDay } from '../value/date'
import { addPeriods, periodLabel, periodOf } from './calendar'
import { type FiscalYearRule, ruledCalendar, weekPatterns } from './fiscalYear'

const [first, last] = [parseDay('2019-01-01')!, parseDay('2031-12-31')!]
const date = (day: number) => new Date(day * 86_400_000)

describe('fiscal years of weeks', () => {
  const rule = fc.record({
    kind: fc.constant('weeks' as const),
    pattern: fc.constantFrom(...weekPatterns),
    month: fc.integer({ min: 1, max: 12 }),
    weekday: fc.integer({ min: 0, max: 6 }),
    end: fc.constantFrom('last' as const, 'nearest' as const),
  })
  it('hold every day once, end on the same day of the week, and have 52 weeks or 53', () => {
    fc.assert(
      fc.property(rule, own => {
        const { periods } = ruledCalendar(own, first, last)
        expect(periods[0]!.start).toBeLessThanOrEqual(first)
        expect(periods.at(-1)!.end).toBeGreaterThanOrEqual(last)
        periods.slice(1).forEach((period, index) => expect(period.start).toBe(periods[index]!.end + 1))
        expect(new Set(periods.map(period => period.code)).size).toBe(periods.length)
        expect(periods.map(period => period.code)).toEqual(periods.map(period => period.code).sort())
        for (let at = 0; at < periods.length; at += 12) {
          const year = periods.slice(at, at + 12)
          expect(date(year[11]!.end).getUTCDay()).toBe(own.weekday)
          const weeks = year.map(period => (period.end - period.start + 1) / 7)
          expect(weeks.slice(0, 11)).toEqual(Array.from({ length: 11 }, (_, index) => Number(own.pattern.split('-')[index % 3])))
          expect([52, 53]).toContain(weeks.reduce((sum, each) => sum + each, 0))
          // never further from the month's end than the rule allows
          const end = date(year[11]!.end)
          const until = Date.UTC(end.getUTCFullYear(), end.getUTCMonth() + 1, 0) / 86_400_000
          if (own.end === 'last') {
            expect(end.getUTCMonth() + 1).toBe(own.month)
            expect(until - year[11]!.end).toBeLessThan(7)
          } else
            expect(
              Math.min(until - year[11]!.end, year[11]!.end - Date.UTC(end.getUTCFullYear(), end.getUTCMonth(), 0) / 86_400_000),
            ).toBeLessThanOrEqual(3)
        }
      }),
    )
  })
  it('end where the calendar on the wall says: the last Saturday of August, the Saturday nearest to the end of January', () => {
    const ends = (own: FiscalYearRule) =>
      ruledCalendar(own, parseDay('2021-01-01')!, parseDay('2026-06-30')!)
        .periods.filter(period => period.number === 12)
        .map(period => dayText(period.end))
    expect(ends({ kind: 'weeks', pattern: '4-4-5', month: 8, weekday: 6, end: 'last' })).toEqual([
      '2021-08-28',
      '2022-08-27',
      '2023-08-26',
      '2024-08-31',
      '2025-08-30',
      '2026-08-29',
    ])
    expect(ends({ kind: 'weeks', pattern: '4-5-4', month: 1, weekday: 6, end: 'nearest' })).toEqual([
      '2021-01-30',
      '2022-01-29',
      '2023-01-28',
      '2024-02-03',
      '2025-02-01',
      '2026-01-31',
      '2027-01-30',
    ])
  })
  it('are called after the year in which they begin, and their periods after their numbers', () => {
    const calendar = ruledCalendar(
      { kind: 'weeks', pattern: '4-4-5', month: 3, weekday: 6, end: 'nearest' },
      parseDay('2026-01-01')!,
      parseDay('2026-10-31')!,
    )
    const october = periodOf(calendar, parseDay('2026-10-20')!)!
    expect([october.code, october.year, october.name, periodLabel(october)]).toEqual([
      '2026-P07',
      '2026/27',
      'P7 2026/27',
      'P7 2026/27, 27 Sep 2026 – 24 Oct 2026',
    ])
    expect(addPeriods(calendar, '2026-P01', -1)!.code).toBe('2025-P12')
  })
})

it('fiscal years of months begin with any month', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 12 }), month => {
      const { periods } = ruledCalendar({ kind: 'months', month }, first, last)
      periods.forEach(period => {
        expect(dayText(period.start).slice(8)).toBe('01')
        expect(date(period.end + 1).getUTCDate()).toBe(1)
        expect(date(period.start).getUTCMonth()).toBe((month - 1 + period.number - 1) % 12)
      })
      expect(periods.length % 12).toBe(0)
      expect(periods[0]!.start <= first && periods.at(-1)!.end >= last).toBe(true)
    }),
  )
  expect(
    ruledCalendar({ kind: 'months', month: 1 }, parseDay('2026-05-01')!, parseDay('2026-05-01')!)
      .periods.map(period => `${period.code} ${period.year} ${period.name}`)
      .slice(0, 2),
  ).toEqual(['2026-P01 2026 2026-01', '2026-P02 2026 2026-02'])
})
