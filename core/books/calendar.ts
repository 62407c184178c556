import type { Day } from '../value/date'

/** A period of a fiscal year. Its code, such as "2026-P07", sorts in time and is what a parameter of the kind period holds. */
export interface FiscalPeriod {
  code: string
  /** the year's name as the books write it, e.g. "2026/27" */
  year: string
  number: number
  name: string
  start: Day
  end: Day
  /** takes adjustments to the year; lies within its last ordinary period */
  adjustment: boolean
}

/**
 * Fiscal years with any start and any number of periods, in the order of time; an adjustment period comes after the ordinary ones of its
 * year.
 */
export interface FiscalCalendar {
  periods: FiscalPeriod[]
  /** the columns that they were read from, by table */
  from?: Record<string, string[]>
}

/** "2026-P07": sorts as text in the order of years and numbers. */
export function periodCode(year: number, number: number): string {
  return `${String(year).padStart(4, '0')}-P${String(number).padStart(2, '0')}`
}

export function findPeriod(calendar: FiscalCalendar | undefined, code: string): FiscalPeriod | undefined {
  return calendar?.periods.find(period => period.code === code)
}

/** The ordinary period that holds a date. */
export function periodOf(calendar: FiscalCalendar | undefined, date: Day): FiscalPeriod | undefined {
  return calendar?.periods.find(period => !period.adjustment && date >= period.start && date <= period.end)
}

const yearCode = (period: FiscalPeriod) => period.code.slice(0, period.code.lastIndexOf('-'))

/**
 * The ordinary period so many places later, across years; an adjustment period stands where its year's last ordinary one does (rule 28).
 */
export function addPeriods(calendar: FiscalCalendar | undefined, code: string, count: number): FiscalPeriod | undefined {
  const ordinary = calendar?.periods.filter(period => !period.adjustment) ?? []
  const place = ordinaryPlace(calendar, code)
  return place < 0 ? undefined : ordinary[place + count]
}

/** Place among the ordinary periods, −1 for a code that is not in the calendar. */
export function ordinaryPlace(calendar: FiscalCalendar | undefined, code: string): number {
  const period = findPeriod(calendar, code)
  if (!period) return -1
  const ordinary = calendar!.periods.filter(each => !each.adjustment)
  return period.adjustment ? ordinary.findLastIndex(each => yearCode(each) === yearCode(period)) : ordinary.indexOf(period)
}

/** First day of the fiscal year of a period. */
export function yearStart(calendar: FiscalCalendar | undefined, code: string): Day | undefined {
  const period = findPeriod(calendar, code)
  return period && Math.min(...calendar!.periods.filter(each => yearCode(each) === yearCode(period)).map(each => each.start))
}

/** "July 2026 (4 of 2026/27)" where a period is a calendar month, else its name with its days; `locale` writes months and days. */
export function periodLabel(period: FiscalPeriod, locale = 'en-GB'): string {
  if (period.adjustment) return period.name
  if (/^\d{4}-\d{2}$/.test(period.name)) return `${monthWords(period.start, locale)} (${period.number} of ${period.year})`
  return (
    `${period.name}${period.name.includes(period.year) ? '' : ` of ${period.year}`}, ${dayWords(period.start, locale)} – ` +
    `${dayWords(period.end, locale)}`
  )
}

const formats = new Map<string, Intl.DateTimeFormat>()
function printed(day: Day, locale: string, parts: Intl.DateTimeFormatOptions): string {
  const key = `${locale} ${parts.month}`
  let format = formats.get(key)
  if (!format) formats.set(key, (format = new Intl.DateTimeFormat(locale, { ...parts, timeZone: 'UTC' })))
  return format.format(new Date(day * 86_400_000))
}

/** "31 Oct 2026", as `locale` writes it */
export function dayWords(day: Day, locale = 'en-GB'): string {
  return printed(day, locale, { day: 'numeric', month: 'short', year: 'numeric' }).replace('Sept', 'Sep')
}

/** "October 2026", as `locale` writes it */
export function monthWords(date: Day, locale = 'en-GB'): string {
  return printed(date, locale, { month: 'long', year: 'numeric' })
}
