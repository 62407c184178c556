import type { Catalog } from '../books/catalog'
import { findTable } from '../catalog/types'
import { reportModel, tablesOf } from '../model/model'
import { withOpenItems } from '../model/openItems'
import { type Use, usesOf } from '../compose/uses'
import type { LevelDefinition, RelatedDefinition } from '../definition/levels'
import type { ReportDefinition } from '../definition/report'

/** A table of a source that a report reads, with the columns it needs and what for. */
export interface NeededTable {
  table: string
  uses: Use[]
  columns: { column: string; uses: Use[] }[]
}

/** What a report reads of its source, in the order of the catalog. The books count where one of its tables or blocks reads them. */
export function needsOf(report: ReportDefinition, catalog: Catalog): NeededTable[] {
  const joined = joinColumns(report)
  const model = reportModel(report, catalog)
  // a data set that is read as a table brings the keys of its root along
  for (const { levels } of model.trees)
    for (const { definition, key } of levels) {
      const keys = joined.get(definition.table) ?? new Set()
      if (!definition.table.startsWith('@')) joined.set(definition.table, new Set([...keys, ...key.filter(path => !path.includes('.'))]))
    }
  const periods = readsPeriods(report, catalog) ? (catalog.calendar?.from ?? {}) : {}
  return catalog.tables.flatMap(({ name, columns }): NeededTable[] => {
    const uses = usesOf(report, catalog, { table: name }, model)
    const books = bookColumns(report, catalog, name)
    const joins = joined.get(name)
    const dated = periods[name]
    if (!uses.length && !books && !joins && !dated) return []
    const needed = columns.flatMap(column => {
      const found = usesOf(report, catalog, { table: name, column: column.name }, model)
      return found.length || joins?.has(column.name) || books?.has(column.name) || dated?.includes(column.name)
        ? [{ column: column.name, uses: found }]
        : []
    })
    return [{ table: name, uses, columns: needed }]
  })
}

/** Does a report know fiscal periods? A word of it too many only asks for a match that is not needed. */
function readsPeriods(report: ReportDefinition, catalog: Catalog): boolean {
  return /period|fiscal/i.test(JSON.stringify(report)) || catalog.tables.some(({ name }) => bookColumns(report, catalog, name))
}

/** Columns by which the levels, related records and child totals of a report find one another, by table. */
function joinColumns(report: ReportDefinition): Map<string, Set<string>> {
  const found = new Map<string, Set<string>>()
  const add = (table: string, column: string) => {
    if (!table.startsWith('@')) found.set(table, (found.get(table) ?? new Set()).add(column))
  }
  const related = (list: readonly RelatedDefinition[], holder: string) => {
    for (const each of list) {
      for (const { from, to } of each.on) {
        add(holder, from)
        add(each.table, to)
      }
      related(each.related, each.table)
    }
  }
  const level = (each: LevelDefinition, above?: LevelDefinition) => {
    for (const { from, to } of above ? each.on : []) {
      // a pair may start from a related record of the parent, which is among its fields
      if (!from.includes('.')) add(above!.table, from)
      add(each.table, to)
    }
    related(each.related, each.table)
    for (const total of each.totals ?? [])
      for (const { from, to } of total.on) {
        if (!from.includes('.')) add(each.table, from)
        add(total.table, to)
      }
    for (const detail of each.details) level(detail, each)
  }
  const whole = withOpenItems(report)
  for (const { root } of whole.dataSets) level(root)
  for (const table of whole.tables ?? []) if (table.kind === 'summary') level(table.base)
  return found
}

/** Columns of a table on which the books stand, where the report reads them as rows of a table of its own. */
function bookColumns(report: ReportDefinition, { ledger, ...catalog }: Catalog, table: string): Set<string> | undefined {
  const names = new Set((report.tables ?? []).flatMap(each => (each.kind === 'ledger' ? [`@${each.name}`] : [])))
  if (!ledger || !names.size || !report.dataSets.some(({ root }) => tablesOf(root).some(each => names.has(each)))) return undefined
  const columns = new Set(findTable(catalog, table)?.columns.map(each => each.name))
  const words = new Set<string>()
  const gather = (value: unknown) => {
    if (typeof value === 'string' && columns.has(value)) words.add(value)
    else if (typeof value === 'object' && value) Object.values(value).forEach(gather)
  }
  const { accounts, lines, journals, budgets, branches, departments } = ledger
  const head = journals?.table ?? lines.table
  for (const part of [accounts, lines, budgets, branches, departments]) if (part?.table === table) gather(part)
  if (journals) {
    if (lines.table === table) gather(journals.on.map(({ from }) => from))
    if (head === table) gather(journals.on.map(({ to }) => to))
  }
  if (head === table) gather([ledger.date, ledger.closing, ledger.period])
  return words.size ? words : undefined
}
