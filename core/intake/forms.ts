import { answerFrom, type Cell, type ColumnForm, dayFrom, isPlainMoment, leadsWithZero, momentFrom, numberShape } from './cells'

/** The forms that a column can have, but for text; sets of them are bits in this order. */
export const forms: readonly ColumnForm[] = [
  { type: 'number', decimal: '.' },
  { type: 'number', decimal: ',' },
  { type: 'date', order: 'ymd' },
  { type: 'date', order: 'dmy' },
  { type: 'date', order: 'mdy' },
  { type: 'boolean' },
  { type: 'moment', order: 'ymd' },
  { type: 'moment', order: 'dmy' },
  { type: 'moment', order: 'mdy' },
]
export const [point, comma, answer] = [1, 2, 32] as const
export const allForms = (1 << forms.length) - 1
const datedForms = allForms & ~(point | comma | answer)
/** Places of the orders of a date among the forms, without a time and with one. */
const orders = [
  { order: 'ymd', date: 2, moment: 6 },
  { order: 'dmy', date: 3, moment: 7 },
  { order: 'mdy', date: 4, moment: 8 },
] as const

/** Which of some forms a cell fits, as bits in the order of `forms`. A text that says so itself is nothing else. */
export function fits(given: Cell, wanted = allForms): number {
  if (typeof given !== 'string' || !wanted) return 0
  const cell = given
  const first = cell.charCodeAt(0)
  // most cells are plain digits or words
  let digits = true
  for (let at = 0; at < cell.length && digits; at++) digits = cell.charCodeAt(at) >= 48 && cell.charCodeAt(at) <= 57
  if (digits) return (cell.length > 1 && first === 48 ? 0 : point | comma) & wanted
  if ((first >= 65 && first <= 90) || (first >= 97 && first <= 122) || first > 0x2fff)
    return wanted & answer && cell.length < 12 && answerFrom(cell) !== undefined ? answer : 0
  let found = 0
  if (wanted & (point | comma) && !leadsWithZero(cell)) {
    if (wanted & point && numberShape(cell, '.')) found |= point
    if (wanted & comma && numberShape(cell, ',')) found |= comma
  }
  if (wanted & datedForms && cell.length >= 8 && cell.length < 32) {
    for (const { order, date, moment } of orders) {
      const [day, time] = [1 << date, 1 << moment]
      if (!(wanted & (day | time))) continue
      if (order === 'ymd' && isPlainMoment(cell, 'date')) found |= (day | time) & wanted
      else if (order === 'ymd' && isPlainMoment(cell, 'moment') && !cell.endsWith('00:00:00')) found |= time & wanted
      else if (dayFrom(cell, order) !== undefined) found |= (day | time) & wanted
      else if (wanted & time && momentFrom(cell, order) !== undefined) found |= time
    }
  }
  return found
}
