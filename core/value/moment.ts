import { type Day, dayOf, dayText, parseDay } from './date'

/**
 * A date and time of day as they stand on a clock, without a zone: microseconds since 1970-01-01 00:00 in the proleptic Gregorian calendar
 * (rule 44 of the semantics). Whole, so that none of a database's digits is lost.
 */
export type Moment = bigint

const perSecond = 1_000_000n
const perDay = 86_400n * perSecond

/** Moments are written with four digits of a year, as days are. */
export const [firstMoment, lastMoment] = [BigInt(dayOf(1, 1, 1)) * perDay, BigInt(dayOf(9999, 12, 31) + 1) * perDay - 1n]

/** Stands in a column for an empty one. */
export const noMoment: Moment = -(2n ** 63n)

const pattern = /^(\d{4}-\d{2}-\d{2})[T ](\d{2}):(\d{2})(?::(\d{2})(?:[.,](\d{1,6})0*)?)?$/

/** Reads `YYYY-MM-DD HH:MM[:SS[.ffffff]]` (ISO 8601, with T or a space), or a day alone as its midnight; undefined where that is none. */
export function parseMoment(text: string): Moment | undefined {
  const match = pattern.exec(text.trim())
  const day = parseDay(match ? match[1]! : text.trim().length === 10 ? text : '')
  if (day === undefined) return undefined
  if (!match) return BigInt(day) * perDay
  const [hour, minute, second] = [Number(match[2]), Number(match[3]), Number(match[4] ?? 0)]
  if (hour > 23 || minute > 59 || second > 59) return undefined
  return BigInt(day) * perDay + BigInt((hour * 60 + minute) * 60 + second) * perSecond + BigInt((match[5] ?? '').padEnd(6, '0'))
}

/** The day on which a moment is. */
export function dayOfMoment(moment: Moment): Day {
  const [days, rest] = [moment / perDay, moment % perDay]
  return Number(rest < 0n ? days - 1n : days)
}

/** Midnight, at which a day begins. */
export const startOfDay = (day: Day): Moment => BigInt(day) * perDay

/** Hour (0–23), minute, second and microseconds of a moment. */
export function clockParts(moment: Moment): { hour: number; minute: number; second: number; micro: number } {
  const rest = Number(((moment % perDay) + perDay) % perDay)
  const seconds = Math.floor(rest / 1_000_000)
  return { hour: Math.floor(seconds / 3600), minute: Math.floor(seconds / 60) % 60, second: seconds % 60, micro: rest % 1_000_000 }
}

/** `YYYY-MM-DD HH:MM:SS`, with the digits of the second that there are: as PostgreSQL writes it. */
export function momentText(moment: Moment, between: ' ' | 'T' = ' '): string {
  const { hour, minute, second, micro } = clockParts(moment)
  const two = (value: number) => String(value).padStart(2, '0')
  const fraction = micro ? `.${String(micro).padStart(6, '0').replace(/0+$/, '')}` : ''
  return `${dayText(dayOfMoment(moment))}${between}${two(hour)}:${two(minute)}:${two(second)}${fraction}`
}

/** Milliseconds since 1970 as if the clock were that of UTC: for libraries that print. Parts of a millisecond are left out. */
export const milliseconds = (moment: Moment): number => Number((moment - (((moment % 1000n) + 1000n) % 1000n)) / 1000n)

/** Days since 1899-12-30 with the time as a part of one, as spreadsheets keep moments (ISO/IEC 29500-1, 18.17.4). */
export function serialOf(moment: Moment): number {
  const day = dayOfMoment(moment)
  return day + 25_569 + Number(moment - startOfDay(day)) / Number(perDay)
}
