import { addMonths, dateParts, type Day, dayOf, dayText, monthEnd } from '../value/date'
import { type FiscalCalendar, type FiscalPeriod, periodCode } from './calendar'

export const weekPatterns = ['4-4-5', '4-5-4', '5-4-4'] as const

/**
 * How fiscal years are cut, where it is said by hand and not read from a table of periods.
 * - months: twelve calendar months from `month` (1 to 12) on
 * - weeks: four quarters of 13 weeks, cut into three periods each. A year always ends on the same day of the week (`weekday`, 0 is
 *   Sunday): the last one in the month `month`, or the one
 * nearest to that month's end; now and then it has 53 weeks, and its last period one more (26 CFR § 1.441-2, the 52-53-week taxable
 * year).
 */
export type FiscalYearRule =
  | { kind: 'months'; month: number }
  | { kind: 'weeks'; pattern: (typeof weekPatterns)[number]; month: number; weekday: number; end: 'last' | 'nearest' }

/** Days are counted from 1970-01-01, a Thursday. */
const weekdayOf = (day: Day) => (((day + 4) % 7) + 7) % 7

/** The last day of the fiscal year of weeks that ends in, or nearest to the end of, a month of a calendar year. */
function weeksEnd(rule: FiscalYearRule & { kind: 'weeks' }, year: number): Day {
  const last = monthEnd(dayOf(year, rule.month, 1))
  const before = last - ((weekdayOf(last) - rule.weekday + 7) % 7)
  return rule.end === 'nearest' && last - before > 3 ? before + 7 : before
}

/**
 * Fiscal years by a rule, as many as hold all days from `first` to `last`. A year is called after the calendar year in which its first
 * week ends, “2026/27” where it reaches into the next.
 */
export function ruledCalendar(rule: FiscalYearRule, first: Day, last: Day): FiscalCalendar {
  const periods: FiscalPeriod[] = []
  const add = (start: Day, ends: readonly Day[], name: (number: number, from: Day, year: string) => string) => {
    const { year } = dateParts(start + 6)
    const said = dateParts(ends.at(-1)! - 6).year === year ? String(year) : `${year}/${String((year + 1) % 100).padStart(2, '0')}`
    let from = start
    ends.forEach((end, index) => {
      periods.push({
        code: periodCode(year, index + 1),
        year: said,
        number: index + 1,
        name: name(index + 1, from, said),
        start: from,
        end,
        adjustment: false,
      })
      from = end + 1
    })
  }
  if (rule.kind === 'months') {
    const { year, month } = dateParts(first)
    for (let start = dayOf(month < rule.month ? year - 1 : year, rule.month, 1); start <= last; start = addMonths(start, 12)) {
      add(
        start,
        Array.from({ length: 12 }, (_, index) => monthEnd(addMonths(start, index))),
        (_, from) => dayText(from).slice(0, 7),
      )
    }
    return { periods }
  }
  const weeks = rule.pattern.split('-').map(Number)
  for (let year = dateParts(first).year - 1; ; year++) {
    const [start, end] = [weeksEnd(rule, year - 1) + 1, weeksEnd(rule, year)]
    if (start > last) return { periods }
    if (end < first) continue
    let until = start - 1
    const ends = Array.from({ length: 12 }, (_, index) => (index === 11 ? end : (until += weeks[index % 3]! * 7)))
    add(start, ends, (number, _, said) => `P${number} ${said}`)
  }
}
