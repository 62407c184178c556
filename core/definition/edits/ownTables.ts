import { readable } from '../../catalog/types'
import type { LevelDefinition } from '../levels'
import type { ReportDefinition } from '../report'
import type { TableDefinition } from '../tables'
import { addDataSet, putTable } from './dataSets'
import { addDetail } from './levels'

export type SqlTable = Extract<TableDefinition, { kind: 'sql' }>
export type SummaryTable = Extract<TableDefinition, { kind: 'summary' }>
export type StackTable = Extract<TableDefinition, { kind: 'stack' }>

/** A level of a table, with nothing in it yet. */
export const blankLevel = (name: string, table: string): LevelDefinition => ({
  name,
  table,
  on: [],
  fields: [],
  related: [],
  details: [],
  filters: [],
  sort: [],
})

/** Names of data sets and own tables: each is called by one of its own. */
export const tableNames = (report: ReportDefinition): string[] => [...report.dataSets, ...(report.tables ?? [])].map(each => each.name)

/** Names of the columns that a table gives. */
export const columnsOf = (table: SqlTable | SummaryTable | StackTable): string[] =>
  table.kind === 'sql'
    ? table.columns.map(each => each.name)
    : table.kind === 'stack'
      ? [table.origin, ...table.columns]
      : [...table.by, ...table.measures].map(each => each.name)

/**
 * Keeps a table. A new one comes into view: as a data set of its own, or, linked as `under` says, beneath the level that it was made for.
 */
export function keepTable(
  report: ReportDefinition,
  table: SqlTable | SummaryTable | StackTable,
  { before, under }: { before?: string | undefined; under?: { level: string; on: LevelDefinition['on'] } | undefined } = {},
): ReportDefinition {
  const next = putTable(report, table, before)
  if (before) return next
  const columns = columnsOf(table)
  if (under?.on.length) {
    const on = under.on.map(pair => ({ from: pair.from, to: pair.to.replaceAll('.', '_') }))
    return addDetail(next, under.level, {
      name: table.name,
      caption: readable(table.name),
      table: `@${table.name}`,
      on,
      fields: columns.filter(each => !on.some(pair => pair.to === each)),
    })
  }
  const root = { ...blankLevel(table.name, `@${table.name}`), caption: readable(table.name), fields: columns }
  return addDataSet(next, `${table.name}_set`, root)
}
