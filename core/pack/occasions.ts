import { dateParts, type Day, dayText, daysInMonth, monthEnd, monthStart } from '../value/date'
import { dayAt, instantOf } from './instants'
import { type DayRule, minutesOf, type OffDay, type When, type WorkCalendar } from './when'

/** A time at which a pack is due: `at` is an instant in milliseconds, `key` tells it from all others of its schedule (2026-11-30T07:00). */
export interface Occasion {
  at: number
  day: Day
  key: string
}

/** Day of the week, 0 is Sunday: 1970-01-01 was a Thursday. */
export const weekdayOf = (day: Day): number => (((day + 4) % 7) + 7) % 7
export const isWorkingDay = (day: Day, { workdays, holidays }: WorkCalendar): boolean =>
  workdays.includes(weekdayOf(day)) && !holidays.has(day)

/** How far is looked for a working day: nobody is off for longer than two months. */
const longest = 62
/** The next working day from a day on, in a direction; undefined where there is none near. */
function workingDayFrom(day: Day, step: 1 | -1, calendar: WorkCalendar): Day | undefined {
  for (let at = day, left = longest; left > 0; at += step, left--) if (isWorkingDay(at, calendar)) return at
  return undefined
}

/** The n-th working day between two days, counted from the first or, below zero, from the last. */
function nthWorkingDay(from: Day, to: Day, nth: number, calendar: WorkCalendar): Day | undefined {
  const step = nth > 0 ? 1 : -1
  let left = Math.abs(nth)
  for (let at = nth > 0 ? from : to; at >= from && at <= to; at += step) if (isWorkingDay(at, calendar) && --left === 0) return at
  return undefined
}

function moved(day: Day, offDay: OffDay, calendar: WorkCalendar): Day | undefined {
  if (offDay === 'stay' || isWorkingDay(day, calendar)) return day
  return offDay === 'leave' ? undefined : workingDayFrom(day, offDay === 'after' ? 1 : -1, calendar)
}

/** Days that a rule gives between two days, both included; a day that was moved in from outside of them is among them. */
export function daysOf(rule: DayRule, from: Day, to: Day, calendar: WorkCalendar): Day[] {
  const found = new Set<Day>()
  const take = (day: Day | undefined) => day !== undefined && day >= from && day <= to && found.add(day)
  const [first, last] = [from - longest, to + longest]
  switch (rule.on) {
    case 'days':
    case 'weekdays':
      for (let day = first; day <= last; day++)
        if (rule.on === 'days' || rule.weekdays.includes(weekdayOf(day))) take(moved(day, rule.offDay, calendar))
      break
    case 'monthDay':
      for (let month = monthStart(first); month <= last; month = monthEnd(month) + 1) {
        const parts = dateParts(month)
        const length = daysInMonth(parts.year, parts.month)
        const place = rule.day > 0 ? Math.min(rule.day, length) : Math.max(length + 1 + rule.day, 1)
        take(moved(month + place - 1, rule.offDay, calendar))
      }
      break
    case 'workingDay':
      if (rule.of === 'month')
        for (let month = monthStart(from); month <= to; month = monthEnd(month) + 1)
          take(nthWorkingDay(month, monthEnd(month), rule.nth, calendar))
      else
        for (let monday = from - ((weekdayOf(from) + 6) % 7); monday <= to; monday += 7)
          take(nthWorkingDay(monday, monday + 6, rule.nth, calendar))
      break
    case 'afterPeriod':
      for (const end of calendar.periodEnds) take(nthWorkingDay(end + 1, end + longest, rule.nth, calendar))
  }
  return [...found].sort((a, b) => a - b)
}

/** How far ahead occasions are looked for: rules that give nothing in two years give nothing. */
const farthest = 2 * 366
/** The next occasions after an instant, in order; none where something has to happen first, or the time is none. */
export function nextOccasions(when: When, after: number, count: number, calendar: WorkCalendar): Occasion[] {
  const minutes = when.is === 'times' ? minutesOf(when.at) : undefined
  if (when.is !== 'times' || minutes === undefined) return []
  const from = dayAt(after, calendar.zone)
  const found: Occasion[] = []
  // in stretches, since a daily rule has its next five within a week
  for (let start = from, length = 40; found.length < count && start <= from + farthest; start += length, length *= 4)
    for (const day of daysOf(when.days, start, start + length - 1, calendar)) {
      const at = instantOf(day, minutes, calendar.zone)
      if (at > after && found.length < count) found.push({ at, day, key: `${dayText(day)}T${when.at}` })
    }
  return found
}

/** The last occasion in the stretch after one instant and up to another; none where there is none, or something has to happen first. */
export function lastOccasion(when: When, after: number, upTo: number, calendar: WorkCalendar): Occasion | undefined {
  const minutes = when.is === 'times' ? minutesOf(when.at) : undefined
  if (when.is !== 'times' || minutes === undefined) return undefined
  const first = Math.max(dayAt(after, calendar.zone), dayAt(upTo, calendar.zone) - farthest)
  for (let end = dayAt(upTo, calendar.zone), length = 40; end >= first; end -= length, length *= 4)
    for (const day of daysOf(when.days, Math.max(end - length + 1, first), end, calendar).reverse()) {
      const at = instantOf(day, minutes, calendar.zone)
      if (at > after && at <= upTo) return { at, day, key: `${dayText(day)}T${when.at}` }
    }
  return undefined
}
