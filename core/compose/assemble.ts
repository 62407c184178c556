import type { Catalog } from '../catalog/types'
import type { DataSetDefinition, LayoutDefinition, ParameterType, ReportDefinition } from '../definition/types'
import { type LevelTree, tickedFields } from '../dataset/levels'
import { reportModel, type ReportModel } from '../dataset/model'
import { type PreparedLayout, prepareLayout } from './prepare'

/** A report made ready for its source: levels found, formulas checked, widths laid out. It holds no data. */
export interface AssembledReport {
  dataSet: DataSetDefinition
  layoutDefinition: LayoutDefinition
  tree: LevelTree
  layout: PreparedLayout
  model: ReportModel
  parameterTypes: Record<string, ParameterType>
}

/** `index` says which of its data sets is meant; the layout stands on the first. */
export function assembleReport(definition: ReportDefinition, catalog: Catalog, index = 0): AssembledReport {
  const dataSet = definition.dataSets[index] ?? definition.dataSets[0]!
  const layoutDefinition = definition.layouts[0]!
  const model = reportModel(definition, catalog)
  const tree = model.trees[definition.dataSets.indexOf(dataSet)]!
  const layout = prepareLayout(index ? { ...layoutDefinition, blocks: [], top: undefined, foot: undefined } : layoutDefinition, dataSet, tree.levels, model.parameterTypes, definition.language)
  return { dataSet, layoutDefinition, tree, layout, model, parameterTypes: model.parameterTypes }
}

/** Fields to read for the pages, and for the rows of the Data stage too where asked for. */
export function usedFields(report: AssembledReport, ticked: boolean): Set<string>[] {
  return report.tree.levels.map(level => new Set([
    ...report.layout.used[level.index]!,
    ...(ticked ? tickedFields(level.definition).filter(path => level.fields.has(path)) : []),
  ]))
}
