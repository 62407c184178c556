import { type Surroundings, recordsBehind } from '../formula/evaluate'
import { Lineage } from '../formula/lineage'
import type { Standing } from '../formula/standing'
import type { FieldInfo } from '../formula/typed'
import { tickedFields } from '../model/levels'
import { fieldTitle } from '../model/titles'
import { valueAt } from '../value/columns'
import { dayText } from '../value/date'
import { add, type Decimal, zero } from '../value/decimal'
import { numberFormat } from '../value/numberFormat'
import { plainText } from '../value/plain'
import type { Value } from '../value/value'
import { fieldText } from './fieldText'
import type { CheckedText } from './text'

/** The records of a level behind a total of a printed figure, each with what it adds, as texts to be shown. */
export interface BehindFigure {
  level: number
  caption: string
  /** name of the total */
  total: string
  /** how many records it counts; the first of them are shown */
  count: number
  fields: { title: string; number: boolean }[]
  rows: { cells: string[]; adds: string }[]
  /** what all records add up to, of totals that add up */
  sum?: string
}

/** Records that are shown of each total, and fields of each. */
const mostRecords = 1000
const mostFields = 5

/**
 * The records behind a figure where it stands on a page: of each total in its text those that it counts. What adds nothing of its own, as
 * a record that is only counted, has no text in `adds`.
 */
export function behindFigure(text: CheckedText, at: Standing, around: Surroundings, language: string): BehindFigure[] {
  const lineage = new Lineage(around.levels, around.data)
  const print = numberFormat('#,##0.00####;−#,##0.00####', language)
  const isDecimal = (value: Value): value is Decimal => typeof value === 'object' && value !== null && 'units' in value
  const shown = (value: Value) => (typeof value === 'boolean' ? '' : isDecimal(value) ? print(value) : plainText(value, dayText))
  return text.formulas
    .flatMap(typed => recordsBehind(typed, around, lineage)(at))
    .map(({ total, rows, values }): BehindFigure => {
      const level = around.levels[total.level]!
      const { columns } = around.data.levels[total.level]!
      const held = (path: string): FieldInfo[] => {
        const field = level.fields.get(path)
        return field && path in columns ? [field] : []
      }
      const keys = level.key.flatMap(held)
      const fields = [...new Set([...keys, ...tickedFields(level.definition).flatMap(held)])].slice(0, mostFields)
      const adds = total.name === 'sum' || total.name === 'average'
      return {
        level: total.level,
        caption: level.caption,
        total: total.name,
        count: rows.length,
        fields: fields.map(field => ({ title: fieldTitle(field), number: field.type === 'number' })),
        rows: rows
          .slice(0, mostRecords)
          .map((row, index) => ({
            cells: fields.map(field => fieldText(field, valueAt(columns[field.path]!, row), language)),
            adds: shown(values[index]!),
          })),
        ...(adds ? { sum: print(values.reduce<Decimal>((all, value) => (isDecimal(value) ? add(all, value) : all), zero)) } : {}),
      }
    })
}
