import { readable } from '../catalog/types'
import type { StackTable } from '../definition/edits/ownTables'
import type { ReportDefinition } from '../definition/report'
import type { LevelInfo } from '../formula/typed'
import type { ValueType } from '../value/value'
import type { ReportModel } from './model'

/** Columns that a new stack begins with, at most. */
const mostColumns = 8

/** The level at the root of a data set, if it is there. */
export const rootOf = (report: ReportDefinition, model: ReportModel, dataSet: string): LevelInfo | undefined =>
  model.trees[report.dataSets.findIndex(each => each.name === dataSet)]?.levels[0]

/** What a column of a stack holds, by the first of its parts that has it. */
export function typeOfColumn(report: ReportDefinition, model: ReportModel, stack: StackTable, column: string): ValueType | undefined {
  for (const part of stack.parts) {
    const field = part.fields[column]
    const found = field === undefined ? undefined : rootOf(report, model, part.dataSet)?.fields.get(field)
    if (found) return found.type
  }
  return undefined
}

/**
 * A stack with a data set more. Its first part says which columns there are: the ticked fields of its root and the keys. Each later part
 * brings the fields of the same name, or a ticked one of the same type; no field twice.
 */
export function stackedOn(report: ReportDefinition, model: ReportModel, stack: StackTable, dataSet: string): StackTable {
  const root = rootOf(report, model, dataSet)
  if (!root) return stack
  const ticked = root.definition.fields
  const keys = [...root.fields.values()].filter(field => field.role === 'key' && !field.record && field.path !== 'id')
  const columns = stack.columns.length
    ? stack.columns
    : [...new Set([...ticked, ...keys.map(field => field.path)])].filter(column => column !== stack.origin).slice(0, mostColumns)
  const match = (column: string): string | undefined => {
    if (root.fields.has(column)) return column
    const type = typeOfColumn(report, model, stack, column)
    return ticked.find(field => root.fields.get(field)?.type === type && !columns.includes(field) && !taken.has(field))
  }
  const taken = new Set<string>()
  const fields: Record<string, string> = {}
  for (const column of columns) {
    const field = match(column)
    if (field === undefined) continue
    fields[column] = field
    taken.add(field)
  }
  return { ...stack, columns, parts: [...stack.parts, { dataSet, label: readable(dataSet), fields }] }
}
