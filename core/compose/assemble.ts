import type { Catalog } from '../books/catalog'
import type { DataSetDefinition } from '../definition/levels'
import type { LayoutDefinition, ReportDefinition } from '../definition/report'
import type { ParameterType } from '../definition/parameters'
import { layoutNamed } from '../definition/walk'
import { type LevelTree, tickedFields } from '../model/levels'
import { reportModel, type ReportModel } from '../model/model'
import type { PreparedLayout } from './prepared'
import { prepareLayout } from './prepare'

/** A report made ready for its source: levels found, formulas checked, widths laid out. It holds no data. */
export interface AssembledReport {
  dataSet: DataSetDefinition
  layoutDefinition: LayoutDefinition
  tree: LevelTree
  layout: PreparedLayout
  /** the other layouts of the report, made ready when they are asked for */
  others: () => PreparedLayout[]
  model: ReportModel
  parameterTypes: Record<string, ParameterType>
}

/** `index` says which of its data sets is meant; layouts stand on the first. `layout` names one of them, else it is the default. */
export function assembleReport(definition: ReportDefinition, catalog: Catalog, index = 0, layout?: string): AssembledReport {
  const dataSet = definition.dataSets[index] ?? definition.dataSets[0]!
  const layoutDefinition = layoutNamed(definition, layout)
  const model = reportModel(definition, catalog)
  const tree = model.trees[definition.dataSets.indexOf(dataSet)]!
  const { language, themes, translations } = definition
  const ready = (each: LayoutDefinition) =>
    prepareLayout(each, tree.levels, {
      parameters: model.parameterTypes,
      language,
      ...(themes ? { themes } : {}),
      ...(translations ? { translations } : {}),
      ...(catalog.ledger ? { ledger: catalog.ledger } : {}),
      ...(definition.tieOuts ? { tieOuts: definition.tieOuts } : {}),
    })
  const prepared = ready(index ? { name: layoutDefinition.name, page: layoutDefinition.page, blocks: [] } : layoutDefinition)
  const others = () => (index ? [] : definition.layouts.filter(each => each !== layoutDefinition).map(ready))
  return { dataSet, layoutDefinition, tree, layout: prepared, others, model, parameterTypes: model.parameterTypes }
}

/** Fields to read for the pages; where asked for, for the pages of all layouts and the rows of the Data stage too. */
export function usedFields(report: AssembledReport, ticked: boolean): Set<string>[] {
  const layouts = ticked ? [report.layout, ...report.others()] : [report.layout]
  return report.tree.levels.map(
    level =>
      new Set([
        ...layouts.flatMap(layout => [...layout.used[level.index]!]),
        ...(ticked ? tickedFields(level.definition).filter(path => level.fields.has(path)) : []),
      ]),
  )
}
