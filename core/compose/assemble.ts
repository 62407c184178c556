import type { Catalog } from '../books/catalog'
import type { DataSetDefinition } from '../definition/levels'
import type { ParameterType } from '../definition/parameters'
import type { LayoutDefinition, ReportDefinition } from '../definition/report'
import { layoutNamed } from '../definition/walk'
import { ledgerAskers } from '../model/ledger'
import { nestedAskers } from '../model/nested'
import { type LevelTree, tickedFields } from '../model/levels'
import { reportModel, type ReportModel } from '../model/model'
import type { LetterWanted } from './letter'
import { prepareLayout } from './prepare'
import type { PreparedLayout } from './prepared'

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

/** Models made last, with what they were made from. */
let models: { from: readonly unknown[]; model: ReportModel }[] = []
const keptModels = 8

/** The model of a report's data sets: the same one as long as nothing of them changes, however often its layouts are edited. */
export function modelOf(definition: ReportDefinition, catalog: Catalog): ReportModel {
  const { dataSets, tables, parameters } = definition
  const from = [catalog, dataSets, tables, parameters, ...ledgerAskers(definition), nestedAskers(definition)]
  const found = models.find(each => each.from.length === from.length && each.from.every((part, at) => part === from[at]))
  const kept = found ?? { from, model: reportModel(definition, catalog) }
  models = [kept, ...models.filter(each => each !== found)].slice(0, keptModels)
  return kept.model
}

/**
 * `index` says which of its data sets is meant; layouts stand on the first. `layout` names one of them, else it is the default. `letter`
 * goes out with each record's pages.
 */
export function assembleReport(
  definition: ReportDefinition,
  catalog: Catalog,
  index = 0,
  layout?: string,
  letter?: LetterWanted,
): AssembledReport {
  const dataSet = definition.dataSets[index] ?? definition.dataSets[0]!
  const layoutDefinition = layoutNamed(definition, layout)
  const model = modelOf(definition, catalog)
  const tree = model.trees[definition.dataSets.indexOf(dataSet)]!
  const { language, themes, translations, tieOuts } = definition
  const ready = (each: LayoutDefinition) =>
    prepareLayout(each, tree.levels, {
      parameters: model.parameterTypes,
      language,
      ...(themes ? { themes } : {}),
      ...(translations ? { translations } : {}),
      ...(catalog.ledger ? { ledger: catalog.ledger } : {}),
      ...(tieOuts ? { tieOuts } : {}),
      ...(letter && each === layoutDefinition ? { letter } : {}),
    })
  const prepared = ready(index ? { name: layoutDefinition.name, page: layoutDefinition.page, blocks: [] } : layoutDefinition)
  const others = () => (index ? [] : definition.layouts.filter(each => each !== layoutDefinition).map(ready))
  return { dataSet, layoutDefinition, tree, layout: prepared, others, model, parameterTypes: model.parameterTypes }
}

/**
 * Fields to read for the pages; where asked for, for the rows of the Data stage too, and for the pages of all layouts (usual with
 * those).
 */
export function usedFields(report: AssembledReport, ticked: boolean, of: 'none' | 'own' | 'all' = ticked ? 'all' : 'own'): Set<string>[] {
  const layouts = of === 'none' ? [] : of === 'own' ? [report.layout] : [report.layout, ...report.others()]
  return report.tree.levels.map(
    level =>
      new Set([
        ...layouts.flatMap(layout => [...layout.used[level.index]!]),
        ...(ticked ? tickedFields(level.definition).filter(path => level.fields.has(path)) : []),
      ]),
  )
}
