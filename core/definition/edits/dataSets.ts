import type { LevelDefinition, RelatedDefinition } from '../levels'
import type { ReportDefinition } from '../report'
import { freeId } from '../names'
import { levelNames } from '../walk'
import type { TableDefinition } from '../tables'
import { replaced } from './levels'

/** A further data set, whose root level takes a free name. */
export function addDataSet(report: ReportDefinition, name: string, root: LevelDefinition): ReportDefinition {
  const taken = [...report.dataSets, ...(report.tables ?? [])].map(each => each.name)
  return {
    ...report,
    dataSets: [
      ...report.dataSets,
      {
        name: freeId(name, taken, true),
        source: report.dataSets[0]?.source ?? '',
        fields: {},
        root: { ...root, name: freeId(root.name, levelNames(report), true) },
      },
    ],
  }
}

/** The first data set stays: the layouts print it. */
export function removeDataSet(report: ReportDefinition, name: string): ReportDefinition {
  return { ...report, dataSets: report.dataSets.filter((each, index) => index === 0 || each.name !== name) }
}

/** Puts a table of the report's own in, or (with `before`) in the place of the one so named; what reads it by its old name follows. */
export function putTable(report: ReportDefinition, table: TableDefinition, before?: string): ReportDefinition {
  const next = { ...report, tables: replaced(report.tables ?? [], table, before) }
  return before && before !== table.name ? renamedTable(next, `@${before}`, `@${table.name}`) : next
}

export function removeTable(report: ReportDefinition, name: string): ReportDefinition {
  return { ...report, tables: (report.tables ?? []).filter(each => each.name !== name) }
}

function renamedTable(report: ReportDefinition, from: string, to: string): ReportDefinition {
  const name = (table: string) => (table === from ? to : table)
  const related = (each: RelatedDefinition): RelatedDefinition => ({ ...each, table: name(each.table), related: each.related.map(related) })
  const level = (each: LevelDefinition): LevelDefinition => ({
    ...each,
    table: name(each.table),
    related: each.related.map(related),
    details: each.details.map(level),
    ...(each.totals ? { totals: each.totals.map(total => ({ ...total, table: name(total.table) })) } : {}),
  })
  return {
    ...report,
    dataSets: report.dataSets.map(dataSet => ({ ...dataSet, root: level(dataSet.root) })),
    tables: report.tables?.map(table => (table.kind === 'summary' ? { ...table, base: level(table.base) } : table)),
    parameters: report.parameters.map(parameter =>
      parameter.choices ? { ...parameter, choices: { ...parameter.choices, table: name(parameter.choices.table) } } : parameter,
    ),
  }
}

/** The report with another source for all of its data sets that read one. */
export function pointAt(report: ReportDefinition, from: string, to: string): ReportDefinition {
  return { ...report, dataSets: report.dataSets.map(set => (set.source === from ? { ...set, source: to } : set)) }
}
