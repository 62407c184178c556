import { dayText } from '../value/date'
import { decimalText, parseDecimal, trim } from '../value/decimal'
import { momentText, startOfDay } from '../value/moment'
import type { Cell } from './cells'

/** Digits that a number of a spreadsheet can have, which is a floating-point one: with more it was written by something else. */
const mostDigits = 17

/**
 * A number of a spreadsheet by its shortest exact text: programs write 1.1 as 1.1000000000000001 (rule 43 of the semantics). One with more
 * digits than such numbers have keeps all of them, as a text.
 */
export function numberCell(value: string): Cell {
  // most are written by their shortest text already
  if (value.length < 16 && String(Number(value)) === value && !value.includes('e')) return value
  const written = parseDecimal(value)
  if (!written) return { text: value }
  const digits = value.replace(/^[-+]?0*\.?0*|[eE].*$|\./g, '').replace(/0+$/, '')
  if (digits.length > mostDigits) return { text: value }
  const short = parseDecimal(String(Number(value)))
  return short ? decimalText(trim(short)) : { text: value }
}

/** Day 0 of the two systems in days before 1970 (ECMA-376, 18.17.4.1). */
const [base1900, base1904] = [25_569, 24_107]
const microsecondsOfDay = 86_400_000_000

/**
 * A date, or a date with a time, of a spreadsheet's serial number. In the system of 1900 there is a 29 February 1900, which no calendar
 * has: days before it are one later than their number says. A part of a day alone is a time.
 */
export function serialCell(value: string, from1904: boolean): Cell {
  const serial = Number(value)
  if (!Number.isFinite(serial) || serial < 0 || serial >= 2_958_466) return numberCell(value)
  const whole = Math.floor(serial)
  if (whole === serial && (from1904 || whole > 60)) return dayText(whole - (from1904 ? base1904 : base1900))
  // times are kept to about a microsecond; what people see are milliseconds
  const micro = Math.round(((serial - whole) * microsecondsOfDay) / 1000) * 1000
  if (!from1904 && whole === 60) return { text: '1900-02-29' }
  const day = whole - (from1904 ? base1904 : whole < 60 ? base1900 - 1 : base1900)
  if (whole === 0 && micro && !from1904) return { text: momentText(BigInt(micro)).slice(11) }
  const moment = startOfDay(day) + BigInt(micro)
  return moment === startOfDay(day) ? dayText(day) : momentText(moment)
}
