import type { ReportDefinition } from '../definition/report'
import { FormulaError, parseFormula } from '../formula/syntax'
import type { LevelInfo } from '../formula/typed'
import { needsWhole } from '../formula/whole'
import { speaksOf } from '../value/text'

/** A parameter that does nothing but choose root records by a field, so that records for many answers can be read at once. */
export interface Dealt {
  parameter: string
  /** of the root */
  path: string
  /** the filter that says so */
  filter: string
}

/**
 * How the records of a report can be read for many answers at once and dealt out: those of the parameters that are compared for equality
 * with a field of the root by one filter, and read nowhere else in the data.
 */
export function dealtBy(definition: ReportDefinition, levels: readonly LevelInfo[], parameters: readonly string[]): Dealt[] {
  const root = levels[0]!
  // figures of the books are asked for by the statements of the layouts
  if (definition.tables?.some(table => table.kind === 'ledger')) return []
  // a field that speaks of all records would speak of those for other answers too
  if (levels.some(({ fields }) => [...fields.values()].some(field => field.formula && needsWhole(field.formula)))) return []
  const texts = textsIn([definition.dataSets, definition.tables])
  return parameters.flatMap((parameter): Dealt[] => {
    const speaking = texts.filter(text => speaksOf(text, 'param') && speaksOf(text, parameter))
    const [filter] = speaking
    if (speaking.length !== 1 || !root.definition.filters.includes(filter!)) return []
    const path = comparedField(filter!, parameter, root.name)
    const field = path === undefined ? undefined : root.fields.get(path)
    return field && field.inSql !== false && !field.total ? [{ parameter, path: path!, filter: filter! }] : []
  })
}

/** The field that a filter compares with a parameter, where it does nothing else. */
function comparedField(filter: string, parameter: string, level: string): string | undefined {
  try {
    const node = parseFormula(filter)
    const isParameter = (each: typeof node) => each.is === 'path' && each.names.join('.') === `param.${parameter}`
    const sides =
      node.is === 'binary' && node.operator === '='
        ? [node.left, node.right]
        : node.is === 'in' && !node.not && node.list.length === 1
          ? [node.value, node.list[0]!]
          : []
    const field = sides.find(each => !isParameter(each))
    if (sides.length !== 2 || field?.is !== 'path' || !sides.some(isParameter)) return undefined
    return (field.names[0] === level && field.names.length > 1 ? field.names.slice(1) : field.names).join('.')
  } catch (error) {
    if (error instanceof FormulaError) return undefined
    throw error
  }
}

/** All texts in a value. */
function textsIn(value: unknown): string[] {
  if (typeof value === 'string') return [value]
  return typeof value === 'object' && value !== null ? Object.values(value).flatMap(textsIn) : []
}

/** The data sets of a report without some filters of its root. */
export function withoutFilters(definition: ReportDefinition, filters: readonly string[]): ReportDefinition {
  const [main, ...others] = definition.dataSets
  const root = { ...main!.root, filters: main!.root.filters.filter(each => !filters.includes(each)) }
  return { ...definition, dataSets: [{ ...main!, root }, ...others] }
}
