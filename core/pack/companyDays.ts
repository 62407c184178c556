import type { FiscalCalendar } from '../books/calendar'
import { parseDay } from '../value/date'
import type { WorkCalendar } from './when'

/** How the company works, as its administrator says it. */
export interface CompanyDays {
  /** an IANA zone, such as Europe/Lisbon, by whose clocks everything is due */
  zone: string
  /** working days of a week; 0 is Sunday */
  workdays: number[]
  /** days off, as 2026-12-25, each with its name */
  holidays: { day: string; name: string }[]
}

/** Monday to Friday, by the clocks of the machine, until somebody says otherwise. */
export const usualDays = (): CompanyDays => ({
  zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  workdays: [1, 2, 3, 4, 5],
  holidays: [],
})

/** Is it a zone that clocks can be read in? */
export function isZone(zone: string): boolean {
  try {
    new Intl.DateTimeFormat('en-GB', { timeZone: zone })
    return zone !== ''
  } catch {
    return false
  }
}

/** What occasions are worked out with: the company's days, and the fiscal periods of the books that a pack reads. */
export const workCalendar = ({ zone, workdays, holidays }: CompanyDays, books?: FiscalCalendar): WorkCalendar => ({
  zone,
  workdays,
  holidays: new Set(holidays.map(each => parseDay(each.day)).filter(day => day !== undefined)),
  periodEnds: (books?.periods ?? []).filter(each => !each.adjustment).map(each => each.end),
})
