import { dayText } from '../value/date'
import { momentText } from '../value/moment'
import {
  answerFrom,
  type Cell,
  cellText,
  type ColumnForm,
  dayFrom,
  isEmptyWord,
  isPlainMoment,
  leadsWithZero,
  markOf,
  momentFrom,
  plainNumber,
} from './cells'

/** A cell that does not fit its column. */
export interface Misfit {
  line: number
  column: string
  cell: string
}

/**
 * A cell as the database takes it: numbers in plain digits, days as ISO 8601, yes and no as t and f; null where it is empty, undefined
 * where it does not fit.
 */
export function converted(given: Cell, form: ColumnForm): string | null | undefined {
  // an empty text is one where the file says so
  if (typeof given !== 'string' && form.type === 'text') return given.text
  const cell = cellText(given)
  if (form.type === 'text') return cell === '' ? null : cell
  // what is written as the database writes it needs no closer look
  if (form.type === 'number' && form.decimal === '.' && markOf(cell, 46) >= 0 && !leadsWithZero(cell)) return cell
  if (isEmptyWord(cell)) return null
  switch (form.type) {
    case 'number':
      return leadsWithZero(cell) ? undefined : plainNumber(cell, form.decimal)
    case 'date': {
      if (form.order === 'ymd' && isPlainMoment(cell, 'date')) return cell
      const day = dayFrom(cell, form.order)
      return day === undefined ? undefined : dayText(day)
    }
    case 'moment': {
      if (form.order === 'ymd' && isPlainMoment(cell, 'moment')) return cell
      const moment = momentFrom(cell, form.order)
      return moment === undefined ? undefined : momentText(moment)
    }
    case 'boolean': {
      const answer = answerFrom(cell)
      return answer === undefined ? undefined : answer ? 't' : 'f'
    }
  }
}

/** A row of PostgreSQL's text format for COPY (manual, section COPY: Text Format). */
export function copyRow(cells: readonly (string | null)[]): string {
  let row = ''
  for (let at = 0; at < cells.length; at++) {
    const cell = cells[at]!
    if (at) row += '\t'
    row += cell === null ? '\\N' : /[\\\t\n\r]/.test(cell) ? cell.replace(/[\\\t\n\r]/g, char => escapes[char]!) : cell
  }
  return `${row}\n`
}
const escapes: Record<string, string> = { '\\': '\\\\', '\t': '\\t', '\n': '\\n', '\r': '\\r' }
