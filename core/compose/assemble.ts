import type { Catalog } from '../catalog/types'
import { type DataSetDefinition, type LayoutDefinition, parameterTypes, type ReportDefinition } from '../definition/types'
import { type LevelTree, levelTree, tickedFields } from '../dataset/levels'
import type { ValueType } from '../dataset/records'
import { type PreparedLayout, prepareLayout } from './prepare'

/** A report made ready for its source: levels found, formulas checked, widths laid out. It holds no data. */
export interface AssembledReport {
  dataSet: DataSetDefinition
  layoutDefinition: LayoutDefinition
  tree: LevelTree
  layout: PreparedLayout
  parameterTypes: Record<string, ValueType>
}

export function assembleReport(definition: ReportDefinition, catalog: Catalog): AssembledReport {
  const dataSet = definition.dataSets[0]!
  const layoutDefinition = definition.layouts[0]!
  const tree = levelTree(dataSet, catalog)
  const types = Object.fromEntries(definition.parameters.map(parameter => [parameter.name, parameterTypes[parameter.kind]]))
  const layout = prepareLayout(layoutDefinition, dataSet, tree.levels, types, definition.language)
  return { dataSet, layoutDefinition, tree, layout, parameterTypes: types }
}

/** Fields to read for the pages, and for the rows of the Data stage too where asked for. */
export function usedFields(report: AssembledReport, ticked: boolean): Set<string>[] {
  return report.tree.levels.map(level => new Set([
    ...report.layout.used[level.index]!,
    ...(ticked ? tickedFields(level.definition).filter(path => level.fields.has(path)) : []),
  ]))
}
