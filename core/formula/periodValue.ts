import { type FiscalCalendar, periodOf, findPeriod, yearStart, addPeriods } from '../books/calendar'
import type { Day } from '../value/date'
import { toNumber, round, type Decimal } from '../value/decimal'
import type { Value } from '../value/value'

/** What a function of the fiscal calendar gives; empty where the calendar does not reach. */
export function periodValue(name: string, values: readonly Value[], calendar: FiscalCalendar | undefined): Value {
  switch (name) {
    case 'period':
      return periodOf(calendar, values[0] as Day)?.code ?? null
    case 'periodStart':
      return findPeriod(calendar, values[0] as string)?.start ?? null
    case 'periodEnd':
      return findPeriod(calendar, values[0] as string)?.end ?? null
    case 'yearStart':
      return yearStart(calendar, values[0] as string) ?? null
    default:
      return addPeriods(calendar, values[0] as string, toNumber(round(values[1] as Decimal, 0)))?.code ?? null
  }
}
