import { readable } from '../../catalog/types'
import { pluralOf } from '../../catalog/joins'
import { formatVersion, type ReportDefinition } from '../../definition/report'
import { reportModel } from '../../model/model'
import { listOfTable } from '../draft'
import { draftDataSet, type WantedJoin } from './data'
import { type DraftKind, draftLayout } from './layout'
import { groupOf } from './list'
import type { Tables } from './tables'

/** What a draft of a table is to be. */
export interface DraftOrder {
  table: string
  source: string
  title?: string | undefined
  /** the kind that suits the table best where none is said */
  kind?: DraftKind | undefined
  joins?: readonly WantedJoin[] | undefined
}

/** A whole report of a table: its data with what belongs to it, and a page that needs no repair. @throws DraftError with a sentence */
export function draftReport(
  tables: Tables,
  { table, source, title, kind, joins }: DraftOrder,
): { definition: ReportDefinition; kind: DraftKind } {
  const dataSet = draftDataSet(tables, table, source, joins)
  const called = title?.trim() || titleOf(table)
  const shell: ReportDefinition = {
    format: formatVersion,
    language: 'en-GB',
    parameters: [],
    dataSets: [dataSet],
    layouts: [{ ...listOfTable(tables.catalog, table, source, called).layouts[0]!, blocks: [] }],
  }
  const { levels } = reportModel(shell, tables.catalog).trees[0]!
  const suits = kind ?? (levels.length > 1 && tables.isDocument(table) ? 'document' : groupOf(tables, levels[0]!) ? 'groups' : 'list')
  const blank = { ...shell, layouts: [] }
  const layout = draftLayout({ ...blank, layouts: shell.layouts }, tables, levels, suits, called, 'Standard')
  return { definition: { ...blank, layouts: [layout] }, kind: suits }
}

/** A table's name as the title of a list of its records. */
export function titleOf(table: string): string {
  const name = readable(table)
  return /s$/i.test(name) ? name : pluralOf(name)
}

/** Tables whose first rows a draft of a table needs to know. */
export function tablesToLook(tables: Tables, table: string): string[] {
  const near = (own: string) => tables.related(own).map(each => each.table)
  const parts = tables.details(table).map(each => each.table)
  return [...new Set([table, ...near(table), ...near(table).flatMap(near), ...parts, ...parts.flatMap(near)])].filter(each =>
    tables.find(each),
  )
}
