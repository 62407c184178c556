import type { AgeColumn, AgeingDefinition, CalculatedDefinition } from '../definition/levels'
import type { FieldRole } from '../formula/typed'

/** A field that an ageing gives its level, as a calculated one. */
export interface AgeingField extends CalculatedDefinition {
  caption: string
  role?: FieldRole
  dated: string
}

/** Fields that hold the amounts, in the order of the columns. */
export const ageColumns = (ageing: AgeingDefinition): string[] => ageing.columns.map((_, index) => `${ageing.name}_${index}`)

/** Fields of an ageing that are shown beside the level's own: amounts by column, the date that counts, and the days. */
export const ageingShown = (ageing: AgeingDefinition): string[] => [`${ageing.name}_due`, `${ageing.name}_days`, ...ageColumns(ageing)]

/** Does a date in `due` belong to this column or one before it (“<=”), or to one after it (“>”)? One that is empty does neither. */
function within(column: AgeColumn, ageing: AgeingDefinition, side: '<=' | '>' = '<='): string {
  const due = `${ageing.name}_due`
  if (typeof column.upTo === 'string') return `${due} ${side} ${column.upTo}(${ageing.asOf})`
  return ageing.direction === 'past'
    ? `${ageing.name}_days ${side} ${column.upTo ?? 0}`
    : `${due} ${side} addDays(${ageing.asOf}, ${column.upTo ?? 0})`
}

/** Does a record stand in this column and in none before it? Edges in days rise, so that the one before it speaks for all of them. */
function inside(index: number, ageing: AgeingDefinition): string {
  const { columns, name } = ageing
  const before = columns.slice(0, index)
  const after = before.every(column => typeof column.upTo === 'number') ? before.slice(-1) : before
  const upper = index < columns.length - 1 ? [within(columns[index]!, ageing)] : []
  const tests = [...after.map(column => within(column, ageing, '>')), ...upper]
  return index === 0 ? [`${name}_due = empty`, ...tests].join(' or ') : tests.join(' and ')
}

/**
 * The fields of an ageing as formulas, so that the database works them out where it can. A record without any date stands in the first
 * column; each record stands in exactly one.
 * Rule 25 of the semantics: day 0 is not due, columns are closed at their upper edge.
 */
export function ageingFields(ageing: AgeingDefinition): AgeingField[] {
  const dated = `${ageing.name}_from`
  const { name, amount, asOf, dates, columns } = ageing
  const due = dates.reduceRight((rest, date) => (rest ? `ifEmpty(${date}, ${rest})` : `(${date})`), '')
  const place = columns
    .slice(0, -1)
    .reduceRight(
      (rest, column, index) => `if(${index === 0 ? `${name}_due = empty or ` : ''}${within(column, ageing)}, ${index}, ${rest})`,
      String(columns.length - 1),
    )
  const fields: Omit<AgeingField, 'dated'>[] = [
    { name: `${name}_due`, formula: due, caption: ageing.direction === 'past' ? 'Due' : 'Falls due' },
    {
      name: `${name}_from`,
      formula: dates.slice(0, -1).reduceRight((rest, date, index) => `if(${date} != empty, ${index}, ${rest})`, String(dates.length - 1)),
      caption: 'Dated by',
      role: 'other',
    },
    {
      name: `${name}_days`,
      formula: ageing.direction === 'past' ? `daysBetween(${name}_due, ${asOf})` : `daysBetween(${asOf}, ${name}_due)`,
      caption: ageing.direction === 'past' ? 'Days' : 'Days ahead',
      role: 'other',
    },
    { name: `${name}_column`, formula: place, caption: 'Age column', role: 'other' },
    { name: `${name}_weight`, formula: `(${amount}) * ${name}_days`, caption: 'Amount times days' },
    ...columns.map((column, index) => ({
      name: `${name}_${index}`,
      formula: columns.length > 1 ? `if(${inside(index, ageing)}, ${amount}, empty)` : amount,
      caption: column.label,
    })),
  ]
  return fields.map(field => ({ ...field, dated }))
}

/** Edges that do not rise from column to column: what lies between them could never be reached. A sentence, or nothing. */
export function ageingFault(ageing: AgeingDefinition): string | undefined {
  const inner = ageing.columns.slice(0, -1)
  const open = inner.findIndex(column => column.upTo === undefined)
  if (open >= 0) return `The column “${ageing.columns[open]!.label}” has no upper edge; only the last column goes without one.`
  const days = inner.flatMap(column => (typeof column.upTo === 'number' ? [column] : []))
  const wrong = days.findIndex((column, index) => index > 0 && (column.upTo as number) <= (days[index - 1]!.upTo as number))
  return wrong > 0
    ? `The column “${days[wrong]!.label}” ends at ${days[wrong]!.upTo} days, which is not beyond “${days[wrong - 1]!.label}” before it.`
    : undefined
}
