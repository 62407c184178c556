/**
 * Calendar dates without a time zone, as days since 1970-01-01 in the proleptic Gregorian calendar (rule 16 of the semantics).
 * Conversions follow the civil-from-days arithmetic of ISO 8601 years.
 */
export type Day = number

/** Days since 1970-01-01 of a year, month (1–12) and day; days beyond the month's end run on. */
export function dayOf(year: number, month: number, day: number): Day {
  const y = month <= 2 ? year - 1 : year
  const era = Math.floor(y / 400)
  const yearOfEra = y - era * 400
  const dayOfYear = Math.floor((153 * (month + (month > 2 ? -3 : 9)) + 2) / 5) + day - 1
  const dayOfEra = yearOfEra * 365 + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100) + dayOfYear
  return era * 146097 + dayOfEra - 719468
}

/** Year, month (1–12) and day of a date. */
export function dateParts(date: Day): { year: number; month: number; day: number } {
  const z = date + 719468
  const era = Math.floor(z / 146097)
  const dayOfEra = z - era * 146097
  const yearOfEra = Math.floor(
    (dayOfEra - Math.floor(dayOfEra / 1460) + Math.floor(dayOfEra / 36524) - Math.floor(dayOfEra / 146096)) / 365,
  )
  const dayOfYear = dayOfEra - (365 * yearOfEra + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100))
  const shifted = Math.floor((5 * dayOfYear + 2) / 153)
  const month = shifted < 10 ? shifted + 3 : shifted - 9
  return { year: yearOfEra + era * 400 + (month <= 2 ? 1 : 0), month, day: dayOfYear - Math.floor((153 * shifted + 2) / 5) + 1 }
}

/** Reads `YYYY-MM-DD` (and `YYYY-MM`, meaning its first day); undefined where that is no date of the calendar. */
export function parseDay(text: string): Day | undefined {
  const match = /^(\d{4})-(\d{2})(?:-(\d{2}))?$/.exec(text.trim())
  if (!match) return undefined
  const [year, month, day] = [Number(match[1]), Number(match[2]), Number(match[3] ?? 1)]
  if (month < 1 || month > 12 || day < 1 || day > daysInMonth(year, month)) return undefined
  return dayOf(year, month, day)
}

/** ISO 8601 text, `YYYY-MM-DD`. */
export function dayText(date: Day): string {
  const { year, month, day } = dateParts(date)
  return `${String(year).padStart(4, '0')}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`
}

export function daysInMonth(year: number, month: number): number {
  if (month === 2) return year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0) ? 29 : 28
  return month === 4 || month === 6 || month === 9 || month === 11 ? 30 : 31
}

/** The same day `months` later, or the last day of a shorter month. */
export function addMonths(date: Day, months: number): Day {
  const { year, month, day } = dateParts(date)
  const index = year * 12 + month - 1 + months
  const [y, m] = [Math.floor(index / 12), (((index % 12) + 12) % 12) + 1]
  return dayOf(y, m, Math.min(day, daysInMonth(y, m)))
}

export function monthStart(date: Day): Day {
  const { year, month } = dateParts(date)
  return dayOf(year, month, 1)
}

export function monthEnd(date: Day): Day {
  const { year, month } = dateParts(date)
  return dayOf(year, month, daysInMonth(year, month))
}

/** The Sunday of a date's week; weeks begin on Monday (ISO 8601). Day 0 is a Thursday. */
export function weekEnd(date: Day): Day {
  return date + 6 - ((((date + 3) % 7) + 7) % 7)
}

export function quarterEnd(date: Day): Day {
  const { month } = dateParts(date)
  return monthEnd(addMonths(monthStart(date), (3 - (month % 3)) % 3))
}
