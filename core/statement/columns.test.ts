import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { StatementColumn, StatementSpan } from '../definition/blocks/statement'
import { addMonths, dayOf, monthEnd } from '../value/date'
import { type FiscalCalendar, type FiscalPeriod, periodCode } from '../books/calendar'
import { ColumnError, neededPeriods, standingColumns } from './columns'

/** Fiscal years from April with twelve months and a thirteenth period, 2022 to 2026. */
const calendar: FiscalCalendar = {
  periods: [2022, 2023, 2024, 2025, 2026].flatMap((year): FiscalPeriod[] => {
    const start = dayOf(year, 4, 1)
    const months = Array.from({ length: 12 }, (_, index): FiscalPeriod => {
      const first = addMonths(start, index)
      return {
        code: periodCode(year, index + 1),
        year: `${year}/${String(year + 1).slice(2)}`,
        number: index + 1,
        name: `${index < 9 ? year : year + 1}-${String(((index + 3) % 12) + 1).padStart(2, '0')}`,
        start: first,
        end: monthEnd(first),
        adjustment: false,
      }
    })
    const end = dayOf(year + 1, 3, 31)
    return [
      ...months,
      {
        code: periodCode(year, 13),
        year: `${year}/${String(year + 1).slice(2)}`,
        number: 13,
        name: 'adjustments',
        start: end,
        end,
        adjustment: true,
      },
    ]
  }),
}
const column = (span: Partial<StatementSpan> & { unit: StatementSpan['unit'] }, more: Partial<StatementColumn> = {}): StatementColumn => ({
  id: 'c',
  kind: 'activity',
  width: 0,
  span: { anchor: 'p', ...span },
  ...more,
})
const stand = (columns: StatementColumn[], anchor: string) =>
  standingColumns(columns, {
    calendar,
    anchor: () => anchor,
    branches: [
      { code: 'NQ', name: 'North Quay' },
      { code: 'BY', name: 'Boatyard' },
    ],
    departments: [],
  })
const periods = (own: StatementColumn, anchor: string) => stand([own], anchor)[0]!.periods

describe('the periods of a column', () => {
  it('are those of its unit, with the adjustments of the year in its last period', () => {
    expect(periods(column({ unit: 'period' }), '2025-P05')).toEqual(['2025-P05'])
    expect(periods(column({ unit: 'period' }), '2025-P12')).toEqual(['2025-P12', '2025-P13'])
    expect(periods(column({ unit: 'period' }), '2025-P13')).toEqual(['2025-P13'])
    expect(periods(column({ unit: 'quarter' }), '2025-P05')).toEqual(['2025-P04', '2025-P05', '2025-P06'])
    expect(periods(column({ unit: 'yearToDate' }), '2025-P03')).toEqual(['2025-P01', '2025-P02', '2025-P03'])
    expect(periods(column({ unit: 'year' }), '2025-P03')).toHaveLength(13)
    expect(periods(column({ unit: 'last', count: 4 }), '2026-P02')).toEqual(['2025-P11', '2025-P12', '2025-P13', '2026-P01', '2026-P02'])
    expect(periods(column({ unit: 'yearToDate', back: 1, backBy: 'year' }), '2026-P02')).toEqual(['2025-P01', '2025-P02'])
    expect(periods(column({ unit: 'period', back: 1, backBy: 'quarter' }), '2026-P02')).toEqual(['2025-P11'])
    expect(periods(column({ unit: 'period', back: 1, backBy: 'year' }), '2022-P02')).toEqual([])
    expect(periods(column({ unit: 'period' }), '2040-P01')).toEqual([])
  })
  it('of a repeat follow one another without a gap and without a period twice, across years', () => {
    const ordinary = calendar.periods.filter(period => !period.adjustment).map(period => period.code)
    fc.assert(
      fc.property(fc.integer({ min: 30, max: ordinary.length - 1 }), fc.integer({ min: 1, max: 24 }), (at, count) => {
        const found = stand([column({ unit: 'period' }, { repeat: { over: 'period', count } })], ordinary[at]!).flatMap(
          each => each.periods,
        )
        const [first] = found
        expect(found).toEqual(calendar.periods.map(period => period.code).filter(code => code >= first! && code <= found.at(-1)!))
        expect(found.filter(code => ordinary.includes(code))).toEqual(ordinary.slice(at - count + 1, at + 1))
      }),
    )
  })
  it('of a repeat seen from an adjustment period are those seen from the last ordinary period of its year: no month is left out', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(2024, 2025, 2026),
        fc.integer({ min: 1, max: 20 }),
        fc.constantFrom('period', 'quarter'),
        (year, count, over) => {
          const trend = column({ unit: over as 'period' }, { repeat: { over: over as 'period', count } })
          const seen = (anchor: string) => stand([trend], anchor).map(each => each.periods)
          expect(seen(periodCode(year, 13))).toEqual(seen(periodCode(year, 12)))
        },
      ),
    )
  })
  it('of an adjustment period by itself stand beside the same one of the year before', () => {
    expect(periods(column({ unit: 'period', back: 1, backBy: 'year' }), '2025-P13')).toEqual(['2024-P13'])
    expect(periods(column({ unit: 'period', back: 1, backBy: 'year' }), '2022-P13')).toEqual([])
  })
  it('of a repeat over branches are the same for each of them', () => {
    expect(
      stand([column({ unit: 'period' }, { repeat: { over: 'branch' } })], '2026-P02').map(each => [each.id, each.branch, each.words]),
    ).toEqual([
      ['c#1', 'NQ', 'North Quay'],
      ['c#2', 'BY', 'Boatyard'],
    ])
  })
})

it('columns are called after what they hold', () => {
  const words = (own: StatementColumn, anchor = '2026-P07') => stand([own], anchor)[0]!.words
  expect([
    words(column({ unit: 'period' })),
    words(column({ unit: 'quarter' })),
    words(column({ unit: 'year' })),
    words(column({ unit: 'yearToDate' })),
    words(column({ unit: 'last', count: 3 })),
  ]).toEqual(['Oct 2026', 'Q3 2026/27', '2026/27', '2026/27 to Oct 2026', 'Aug 2026 – Oct 2026'])
  expect([
    words(column({ unit: 'period' }, { kind: 'balance' })),
    words(column({ unit: 'period' }, { kind: 'budget', version: 'revised' })),
  ]).toEqual(['31 Oct 2026', 'Budget revised, Oct 2026'])
})

it('a column without a period to stand on says so', () => {
  expect(() => stand([column({ unit: 'period' }, { title: 'Actual' })], '')).toThrow(
    new ColumnError('The column “Actual” has no period to stand on; answer the parameter that gives it.', 'c'),
  )
})

it('only periods that are asked for are read; a balance needs its year from the beginning and all before it in one', () => {
  expect(
    neededPeriods(stand([column({ unit: 'period' }), column({ unit: 'period', back: 1, backBy: 'year' })], '2026-P03'), calendar),
  ).toEqual({ periods: ['2025-P03', '2026-P03'], before: [] })
  const { periods: found, before } = neededPeriods(stand([column({ unit: 'period' }, { kind: 'balance' })], '2025-P03'), calendar)
  expect(found).toEqual(['2025-P01', '2025-P02', '2025-P03'])
  expect(before.at(0)).toBe('2022-P01')
  expect(before.at(-1)).toBe('2024-P13')
})
