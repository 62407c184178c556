import type { ChildTotalDefinition, DataSetDefinition, OpenItemsPart, OpenItemsTable, ReportDefinition, TableDefinition } from './types'

/** Columns that every table of open items has after those asked for. */
export const openItemColumns = ['date', 'amount', 'open', 'booked_open'] as const

/** A report in which each table of open items is written out as data sets (one per part, named "<table> <n>") and a stack of them; others come back as they are. */
export function withOpenItems(report: ReportDefinition): ReportDefinition {
  const tables = report.tables?.filter(each => each.kind === 'openItems') ?? []
  if (!tables.length) return report
  const source = report.dataSets[0]!.source
  return {
    ...report,
    dataSets: [...report.dataSets, ...tables.flatMap(table => table.parts.map((part, index) => partSet(table, part, index, source)))],
    tables: report.tables!.map(each => each.kind === 'openItems' ? stackOf(each) : each),
  }
}

const setName = (table: OpenItemsTable, index: number) => `${table.name} ${index + 1}`

/** Documents of one table dated up to the as-of date, with what was applied to them up to it (rule 24 of the semantics); only what is still open. */
function partSet(table: OpenItemsTable, part: OpenItemsPart, index: number, source: string): DataSetDefinition {
  const { asOf } = table
  const totals = part.settled.flatMap((each, place): ChildTotalDefinition[] => ['amount', 'booked'].map(value => (
    { name: `settled_${value}_${place}`, table: each.table, on: each.on, total: 'sum', value: each[value as 'amount' | 'booked'], filters: [`${each.date} <= ${asOf}`] })))
  const left = (whole: string, value: string) => `(${whole})${part.settled.map((each, place) => ` ${each.adds ? '+' : '-'} settled_${value}_${place}`).join('')}`
  return {
    name: setName(table, index), source, fields: {},
    root: {
      name: setName(table, index), caption: `${part.label} of ${table.name}`, table: part.table, on: [], fields: [], related: part.related, details: [], sort: [], totals,
      filters: [...part.filters, `${part.date} <= ${asOf}`, 'open != 0 or booked_open != 0'],
      calculated: [{ name: 'open', formula: left(part.amount, 'amount') }, { name: 'booked_open', formula: left(part.booked, 'booked') }],
    },
  }
}

function stackOf(table: OpenItemsTable): TableDefinition {
  return {
    kind: 'stack', name: table.name, origin: 'kind', columns: [...table.columns, ...openItemColumns],
    parts: table.parts.map((part, index) => ({ dataSet: setName(table, index), label: part.label, fields: { ...part.fields, date: part.date, amount: part.amount, open: 'open', booked_open: 'booked_open' } })),
  }
}
