import type { FieldInfo, LevelInfo, Scope, Typed } from '../formula/typed'
import type { TableBlock } from '../definition/blocks/table'
import { checkFormula } from '../formula/check'
import { isAmount, ratioOf } from '../formula/ratio'
import { partsOf } from '../formula/parts'
import { FormulaError } from '../formula/syntax'
import { singleValue } from '../value/textParts'

/** The totals that an author can pick for a column, in the order they are offered. */
export const totalKinds = [
  'sum',
  'count',
  'distinct',
  'average',
  'min',
  'max',
  'median',
  'mode',
  'largest',
  'smallest',
  'first',
  'last',
  'share',
] as const
export type TotalKind = (typeof totalKinds)[number]

/** Which total, with what condition, which of the n largest, and over what. */
export interface TotalChoice {
  kind: TotalKind
  where?: string
  count?: number
  over?: string
}

const asNumber: readonly TotalKind[] = ['average', 'median', 'largest', 'smallest']
const asAmount: readonly TotalKind[] = ['sum', 'share']

/** The text of a cell that holds a total of a column's value, printed as the value is. */
export function totalText(value: { formula: string; pattern?: string }, choice: TotalChoice): string {
  const { kind, where, count = 2, over } = choice
  const parts = [
    value.formula,
    ...(kind === 'largest' || kind === 'smallest' ? [String(count)] : []),
    ...(where?.trim() ? [`where: ${where.trim()}`] : []),
    ...(over ? [`over: ${over}`] : []),
  ]
  const pattern = value.pattern && kind !== 'count' && kind !== 'distinct' && kind !== 'share' ? ` | ${value.pattern}` : ''
  return `{{ ${kind}(${parts.join(', ')})${pattern} }}`
}

/** What total a cell's text holds of a value, where it is one that `totalText` writes. */
export function totalIn(text: string, formula: string): TotalChoice | undefined {
  const single = singleValue(text)
  const call = single && /^(\w+)\((.*)\)$/s.exec(single.formula)
  if (!call || !(totalKinds as readonly string[]).includes(call[1]!) || !call[2]!.startsWith(formula)) return undefined
  const rest = call[2]!.slice(formula.length)
  const parts = /^(?:, (\d+))?(?:, where: (.*?))?(?:, over: (\w+))?$/s.exec(rest)
  if (!parts) return undefined
  return {
    kind: call[1] as TotalKind,
    ...(parts[1] ? { count: Number(parts[1]) } : {}),
    ...(parts[2] ? { where: parts[2] } : {}),
    ...(parts[3] ? { over: parts[3] } : {}),
  }
}

/**
 * Can a value be totalled in this way? Keys, codes and numbers that are names are counted, never added up; prices, rates and per cents
 * have an average, and no sum.
 */
export function canTotal(typed: Typed, kind: TotalKind): boolean {
  if (asAmount.includes(kind)) return isMeasure(typed)
  return !asNumber.includes(kind) || isMeasure(typed) || (typed.is === 'field' && typed.field.role === 'rate')
}

/** Is it added up unasked: an amount, a quantity, or a ratio that is worked out again? A price by a factor is not. */
function addsUp(typed: Typed): boolean {
  return isAmount(typed) || (typed.is === 'field' ? !!typed.field.ratio : !!ratioOf(typed, part => part))
}

/** A number that can be added up: a measure, or what is worked out from measures. */
export function isMeasure(typed: Typed): boolean {
  return (
    typed.type === 'number' &&
    (typed.is !== 'field' || (typed.field.role === 'measure' && !typed.field.format?.includes('%')) || typed.field.ratio !== undefined)
  )
}

/** The first row of lines whose cell in a column is one value. */
export function columnValue(table: TableBlock, column: string): { formula: string; pattern?: string } | undefined {
  for (const row of table.rows) {
    if (row.kind !== 'line') continue
    const single = singleValue(row.cells[column]?.text ?? '')
    if (single) return single
  }
  return undefined
}

/** Sums of all columns that can be added up, as texts by column: what a new group or the table's end starts with. */
export function columnTotals(table: TableBlock, scope: Scope): Record<string, string> {
  return Object.fromEntries(
    table.columns.flatMap(column => {
      const value = columnValue(table, column.id)
      const typed = value && checked(value.formula, { ...scope, row: 'line' })
      return value && typed && !column.hidden && isMeasure(typed) && addsUp(typed) && typed.is !== 'running' && typed.is !== 'rank'
        ? [[column.id, totalText(value, { kind: 'sum' })]]
        : []
    }),
  )
}

/** A formula's type, or nothing where it cannot be read. */
export function checked(formula: string, scope: Scope): Typed | undefined {
  try {
    return checkFormula(formula, scope)
  } catch (error) {
    if (error instanceof FormulaError) return undefined
    throw error
  }
}

/** Where a total can stand: each group from the inside out, and the table's end. */
export function totalPlaces(table: TableBlock): { kind: 'groupEnd' | 'end'; group?: string; label: string }[] {
  return [
    ...table.groups
      .map(group => ({ kind: 'groupEnd' as const, group: group.id, label: `each ${group.id.replaceAll('_', ' ')}` }))
      .reverse(),
    { kind: 'end' as const, label: 'the end of the table' },
  ]
}

/** Fields by which records are usually grouped: names and codes of related records, dates, and texts that repeat. */
export function groupFields(levels: readonly LevelInfo[], level: number): FieldInfo[] {
  const found: FieldInfo[] = []
  for (let at = level; at >= 0; at = levels[at]!.parent) {
    for (const field of levels[at]!.fields.values()) {
      if (field.type === 'number' || (at === level && field.record === '' && /^(id|number|description|note)$/.test(field.column.name)))
        continue
      found.push(field)
    }
  }
  const rank = (field: FieldInfo) =>
    (field.record && /^(name|code)$/.test(field.column.name) ? 0 : field.type === 'date' ? 1 : field.record ? 2 : 1) +
    field.record.split('.').length * 0.1
  return found.sort((a, b) => rank(a) - rank(b))
}

/** Levels whose fields a formula totals. */
export function totalledLevels(typed: Typed): number[] {
  return typed.is === 'total' ? [typed.level] : partsOf(typed).flatMap(totalledLevels)
}
