import { dayOf, monthEnd, dateParts, type Day } from '../value/date'
import { type Moment, startOfDay } from '../value/moment'

/** A cell as a file holds it: what it writes, or a text that the file itself says is one, whatever it looks like. */
export type Cell = string | { text: string }
export const cellText = (cell: Cell | undefined): string => (cell === undefined ? '' : typeof cell === 'string' ? cell : cell.text)

/** Year, month and day in the order in which they are written. */
export type DayOrder = 'ymd' | 'dmy' | 'mdy'

/** How a column writes its values. */
export type ColumnForm =
  | { type: 'text' }
  /** `decimal`: the mark before the decimals; digits may be grouped by the other one, by spaces or by ’ */
  | { type: 'number'; decimal: '.' | ',' }
  | { type: 'date' | 'moment'; order: DayOrder }
  | { type: 'boolean' }

const yes = new Set(['yes', 'true', 'y', 't', 'ja', 'sim', 'oui', 'si', 'sí', 'wahr', 'verdadeiro', 'vrai', 'on', 'x'])
const no = new Set(['no', 'false', 'n', 'f', 'nein', 'não', 'nao', 'non', 'falsch', 'falso', 'faux', 'off'])

/** Words that stand for an empty cell where a column is of numbers, dates or yes and no. */
export const emptyWords = new Set(['', 'null', 'n/a', 'na', '#n/a', 'none', 'nil', '-', '–', '—', '(blank)', '\\n'])
export function isEmptyWord(cell: string): boolean {
  if (cell.length >= 8) return false
  if (cell.length === 0) return true
  const first = cell.charCodeAt(0)
  // they begin with an n, a sign, or white space; others need no closer look
  if ((first > 57 && first < 92 && first !== 78) || (first > 92 && first < 128 && first !== 110) || (first > 47 && first < 58)) return false
  return emptyWords.has(cell.trim().toLowerCase())
}

/**
 * Where the decimal mark of a number stands that is written as most are: an optional minus, digits, and at most one mark with digits on
 * both sides. Its length where it has none, −1 where it is written in another way.
 */
export function markOf(cell: string, mark: number): number {
  const { length } = cell
  let at = cell.charCodeAt(0) === 45 ? 1 : 0
  const from = at
  let found = length
  for (; at < length; at++) {
    const code = cell.charCodeAt(at)
    if (code >= 48 && code <= 57) continue
    if (code !== mark || found !== length || at === from || at === length - 1) return -1
    found = at
  }
  return length > from && length < 1000 ? found : -1
}

/** Digits before and after the mark of a number of this form; nothing where it is none. The same numbers as those of `plainNumber`. */
export function numberShape(cell: string, decimal: '.' | ','): { digits: number; scale: number } | undefined {
  const plain = markOf(cell, decimal === '.' ? 46 : 44)
  if (plain >= 0) return { digits: plain - (cell.charCodeAt(0) === 45 ? 1 : 0), scale: plain === cell.length ? 0 : cell.length - plain - 1 }
  const text = plainNumber(cell, decimal)
  if (text === undefined) return undefined
  const mark = text.indexOf('.')
  return { digits: (mark < 0 ? text.length : mark) - (text.startsWith('-') ? 1 : 0), scale: mark < 0 ? 0 : text.length - mark - 1 }
}

const isDigit = (code: number) => code >= 48 && code <= 57
const twoDigits = (cell: string, at: number) => (cell.charCodeAt(at) - 48) * 10 + cell.charCodeAt(at + 1) - 48
const monthDays = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31]

/** Is it a day of the calendar written YYYY-MM-DD, in the first ten letters of a cell? What is not may still be a day in another way. */
function isPlainDay(cell: string): boolean {
  for (let at = 0; at < 10; at++) if (at === 4 || at === 7 ? cell.charCodeAt(at) !== 45 : !isDigit(cell.charCodeAt(at))) return false
  const year = twoDigits(cell, 0) * 100 + twoDigits(cell, 2)
  const [month, day] = [twoDigits(cell, 5), twoDigits(cell, 8)]
  if (year < 1 || month < 1 || month > 12 || day < 1) return false
  const leap = month === 2 && year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0)
  return day <= monthDays[month - 1]! + (leap ? 1 : 0)
}

/** Is a cell a date, or a date with a time, exactly as the database writes it: YYYY-MM-DD, YYYY-MM-DD HH:MM:SS? */
export function isPlainMoment(cell: string, type: 'date' | 'moment'): boolean {
  if (cell.length === 10) return type === 'date' && isPlainDay(cell)
  if (type === 'date' || cell.length !== 19 || cell.charCodeAt(10) !== 32 || !isPlainDay(cell)) return false
  for (const at of [11, 12, 14, 15, 17, 18]) if (!isDigit(cell.charCodeAt(at))) return false
  if (cell.charCodeAt(13) !== 58 || cell.charCodeAt(16) !== 58) return false
  return twoDigits(cell, 11) < 24 && twoDigits(cell, 14) < 60 && twoDigits(cell, 17) < 60
}

/**
 * A number as it is written, in plain digits with a point: "1.234,5-" with a decimal comma is "-1234.5", "(12)" is "-12". Nothing where it
 * is no number of the form: groups that are not of three, two marks, letters. Digits are never lost.
 */
export function plainNumber(cell: string, decimal: '.' | ','): string | undefined {
  const plain = markOf(cell, decimal === '.' ? 46 : 44)
  if (plain >= 0) return decimal === '.' || plain === cell.length ? cell : `${cell.slice(0, plain)}.${cell.slice(plain + 1)}`
  let text = cell.trim()
  if (!text || text.length > 1100) return undefined
  let negative = false
  if (text.startsWith('(') && text.endsWith(')')) {
    negative = true
    text = text.slice(1, -1).trim()
  }
  const sign = /^[-+−]|[-−]$/.exec(text)
  if (sign) {
    if (negative) return undefined
    negative = sign[0] !== '+'
    text = (sign.index === 0 ? text.slice(1) : text.slice(0, -1)).trim()
  }
  const group = decimal === '.' ? ',' : '.'
  const at = text.indexOf(decimal)
  const [whole, rest] = at < 0 ? [text, ''] : [text.slice(0, at), text.slice(at + 1)]
  if (at >= 0 && !/^\d+$/.test(rest)) return undefined
  let digits = whole
  if (!/^\d*$/.test(whole)) {
    const mark = [group, ' ', '\u00a0', '\u202f', '’', "'"].find(each => whole.includes(each))
    if (mark === undefined) return undefined
    const parts = whole.split(mark)
    if (!/^\d{1,3}$/.test(parts[0]!) || parts.slice(1).some(part => !/^\d{3}$/.test(part))) return undefined
    digits = parts.join('')
  }
  if (!digits && !rest) return undefined
  return `${negative ? '-' : ''}${digits || '0'}${rest ? `.${rest}` : ''}`
}

/** Does a number lead with a zero that would be lost, as codes do? */
export function leadsWithZero(cell: string): boolean {
  const first = cell.charCodeAt(0)
  if (first === 48) return isDigit(cell.charCodeAt(1))
  return !isDigit(first) && /^\s*0\d/.test(cell)
}

/** A day that is written in this order, with four digits of the year; nothing where there is no such day. */
export function dayFrom(cell: string, order: DayOrder): Day | undefined {
  const found = /^\s*(\d{1,4})([-/.])(\d{1,2})\2(\d{1,4})(?:[T ]00:00(?::00(?:\.0+)?)?)?\s*$/.exec(cell)
  if (!found) return undefined
  const [first, second, third] = [found[1]!, found[3]!, found[4]!]
  const [year, month, day] = order === 'ymd' ? [first, second, third] : order === 'dmy' ? [third, second, first] : [third, first, second]
  if (year.length !== 4 || day.length > 2 || month.length > 2) return undefined
  const [y, m, d] = [Number(year), Number(month), Number(day)]
  if (y < 1 || m < 1 || m > 12 || d < 1 || d > dateParts(monthEnd(dayOf(y, m, 1))).day) return undefined
  return dayOf(y, m, d)
}

const clock = /^([\d./-]{8,10})(?:T|,? )(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,](\d{1,6})0*)?)?(?: ?([AaPp])\.?[Mm]\.?)?$/

/** A date with a time in this order; a date alone is its midnight. Nothing where there is none, or a zone is written behind it. */
export function momentFrom(cell: string, order: DayOrder): Moment | undefined {
  const text = cell.trim()
  const found = clock.exec(text)
  const day = dayFrom(found ? found[1]! : text, order)
  if (day === undefined || !found) return day === undefined ? undefined : startOfDay(day)
  const [hour, minute, second] = [Number(found[2]), Number(found[3]), Number(found[4] ?? 0)]
  const half = found[6]?.toLowerCase()
  if (minute > 59 || second > 59 || (half ? hour < 1 || hour > 12 : hour > 23)) return undefined
  const hours = half ? (hour % 12) + (half === 'p' ? 12 : 0) : hour
  return startOfDay(day) + BigInt((hours * 60 + minute) * 60 + second) * 1_000_000n + BigInt((found[5] ?? '').padEnd(6, '0'))
}

/** Yes or no in words; nothing where it is neither. Digits are numbers. */
export function answerFrom(cell: string): boolean | undefined {
  const word = cell.trim().toLowerCase()
  return yes.has(word) ? true : no.has(word) ? false : undefined
}
