import type { Catalog } from '../books/catalog'
import { type CatalogTable, findTable, readable } from '../catalog/types'
import { pastColumns } from '../definition/edits/ageing'
import type { ChildTotalDefinition, DataSetDefinition, LevelDefinition } from '../definition/levels'
import type { OpenItemsPart, OpenItemsTable, TableDefinition } from '../definition/tables'
import type { ReportDefinition } from '../definition/report'

/** Columns that every table of open items has after those asked for. */
export const openItemColumns = ['date', 'amount', 'open', 'booked_open'] as const

/**
 * A report in which each table of open items is written out as data sets (one per part, named "<table> <n>") and a stack of them; others
 * come back as they are.
 */
export function withOpenItems(report: ReportDefinition): ReportDefinition {
  const tables = report.tables?.filter(each => each.kind === 'openItems') ?? []
  if (!tables.length) return report
  const source = report.dataSets[0]!.source
  return {
    ...report,
    dataSets: [...report.dataSets, ...tables.flatMap(table => table.parts.map((part, index) => partSet(table, part, index, source)))],
    tables: report.tables!.map(each => (each.kind === 'openItems' ? stackOf(each) : each)),
  }
}

const setName = (table: OpenItemsTable, index: number) => `${table.name} ${index + 1}`

/**
 * Documents of one table dated up to the as-of date, with what was applied to them up to it (rule 24 of the semantics); only what is
 * still open.
 */
function partSet(table: OpenItemsTable, part: OpenItemsPart, index: number, source: string): DataSetDefinition {
  const { asOf } = table
  const totals = part.settled.flatMap((each, place): ChildTotalDefinition[] =>
    ['amount', 'booked'].map(value => ({
      name: `settled_${value}_${place}`,
      table: each.table,
      on: each.on,
      total: 'sum',
      value: each[value as 'amount' | 'booked'],
      filters: [`${each.date} <= ${asOf}`],
    })),
  )
  const left = (whole: string, value: string) =>
    `(${whole})${part.settled.map((each, place) => ` ${each.adds ? '+' : '-'} settled_${value}_${place}`).join('')}`
  return {
    name: setName(table, index),
    source,
    fields: {},
    root: {
      name: setName(table, index),
      caption: `${part.label} of ${table.name}`,
      table: part.table,
      on: [],
      fields: [],
      related: part.related,
      details: [],
      sort: [],
      totals,
      filters: [...part.filters, `${part.date} <= ${asOf}`, 'open != 0 or booked_open != 0'],
      calculated: [
        { name: 'open', formula: left(part.amount, 'amount') },
        { name: 'booked_open', formula: left(part.booked, 'booked') },
      ],
    },
  }
}

function stackOf(table: OpenItemsTable): TableDefinition {
  return {
    kind: 'stack',
    name: table.name,
    origin: 'kind',
    columns: [...table.columns, ...openItemColumns],
    parts: table.parts.map((part, index) => ({
      dataSet: setName(table, index),
      label: part.label,
      fields: { ...part.fields, date: part.date, amount: part.amount, open: 'open', booked_open: 'booked_open' },
    })),
  }
}

/** A way to read open items that a source offers: what was applied, to which documents, and the table that it all belongs to. */
export interface OpenItemsProposal {
  applications: string
  party: string
  table: Omit<OpenItemsTable, 'name' | 'asOf'>
}

/**
 * Tables that apply one kind of document to another: they point at two or more tables with dated amounts that belong to the same party.
 * The document that is always named is what is owed;
 * the others reduce it. All of it is a proposal: the author sees and changes each formula.
 */
export function proposeOpenItems(catalog: Catalog): OpenItemsProposal[] {
  return catalog.tables.flatMap((table): OpenItemsProposal[] => {
    const keys = catalog.foreignKeys.filter(key => key.from.table === table.name && key.from.columns.length === 1)
    const date = dateOf(table)
    const amount = moneyOf(table)
    const targets = [...new Set(keys.map(key => key.to.table))]
      .flatMap(name => findTable(catalog, name) ?? [])
      .filter(each => dateOf(each) && moneyOf(each))
    if (!date || !amount || targets.length < 2) return []
    const parties = targets.map(each => catalog.foreignKeys.filter(key => key.from.table === each.name && key.from.columns.length === 1))
    // of the records that all of them belong to, the one that most is known of: a customer rather than a branch or a currency
    const [party] = parties[0]!
      .filter(key =>
        parties
          .slice(1)
          .every(list => list.some(other => other.to.table === key.to.table && other.from.columns[0] === key.from.columns[0])),
      )
      .sort((a, b) => findTable(catalog, b.to.table)!.columns.length - findTable(catalog, a.to.table)!.columns.length)
    if (!party) return []
    const column = (name: string) => table.columns.find(each => each.name === name)
    const owed =
      keys.find(key => column(key.from.columns[0]!)?.required && targets.some(each => each.name === key.to.table))?.to.table ??
      targets[0]!.name
    const own = column('base_amount') ? 'base_amount' : amount
    const other = table.columns.find(each => /source.*amount|amount.*source/.test(each.name))?.name ?? own
    const shared = [
      ...new Set(
        targets.flatMap(each =>
          catalog.foreignKeys.filter(key => key.from.table === each.name && key.from.columns.length === 1).map(key => key.from.columns[0]!),
        ),
      ),
    ].filter(name => targets.every(each => each.columns.some(found => found.name === name)))
    const parts = targets.map((each): OpenItemsPart => {
      const mine = keys
        .filter(key => key.to.table === each.name)
        .sort((a, b) => Number(column(b.from.columns[0]!)?.required ?? false) - Number(column(a.from.columns[0]!)?.required ?? false))
      const main = each.name === owed
      const terms = catalog.foreignKeys.find(
        key =>
          key.from.table === each.name &&
          key.from.columns.length === 1 &&
          findTable(catalog, key.to.table)?.columns.some(found => found.name === 'days'),
      )
      const due = each.columns.find(found => found.type === 'date' && /due/.test(found.name))?.name ?? (main ? undefined : dateOf(each))
      const number = each.columns.find(found => /^(number|code)$/.test(found.name))?.name
      const sign = main ? '' : '-'
      const booked = each.columns.find(found => /^base_(total|amount)$/.test(found.name))?.name ?? moneyOf(each)!
      return {
        label: readable(each.name),
        table: each.name,
        filters: [],
        date: dateOf(each)!,
        amount: `${sign}${moneyOf(each)}`,
        booked: `${sign}${booked}`,
        related: terms
          ? [
              {
                name: 'terms',
                table: terms.to.table,
                on: [{ from: terms.from.columns[0]!, to: terms.to.columns[0]! }],
                fields: ['days'],
                related: [],
              },
            ]
          : [],
        fields: {
          ...Object.fromEntries(shared.map(name => [name, name])),
          ...(number ? { number } : {}),
          ...(due ? { due_date: due } : {}),
          ...(terms ? { terms_days: 'terms.days' } : {}),
        },
        settled: mine.map((key, index) => ({
          table: table.name,
          on: [{ from: key.to.columns[0]!, to: key.from.columns[0]! }],
          date,
          amount,
          booked: main && index === 0 ? own : other,
          adds: !(main && index === 0),
        })),
      }
    })
    // what is owed comes first, and its key that is always named
    const ordered = [...parts.filter(part => part.table === owed), ...parts.filter(part => part.table !== owed)]
    return [
      {
        applications: table.name,
        party: party.to.table,
        table: { kind: 'openItems', columns: [...new Set(ordered.flatMap(part => Object.keys(part.fields)))], parts: ordered },
      },
    ]
  })
}

/**
 * The records that a data set of open items begins with: what is shown of each, the party it belongs to, and its age in the usual
 * columns.
 */
export function openItemsLevel(table: OpenItemsTable, catalog: Catalog, party: string | undefined): LevelDefinition {
  const shown = ['kind', ...table.columns.filter(column => !/_id$/.test(column)), ...openItemColumns]
  const dates = [
    ...(table.columns.includes('due_date') ? ['due_date'] : []),
    ...(table.columns.includes('terms_days') ? ['addDays(date, terms_days)'] : []),
    'date',
  ]
  const key = table.columns.find(column => catalog.foreignKeys.some(each => each.to.table === party && each.from.columns[0] === column))
  const known = party === undefined ? undefined : findTable(catalog, party)
  return {
    name: 'item',
    caption: readable(table.name),
    table: `@${table.name}`,
    on: [],
    fields: shown,
    details: [],
    filters: [],
    sort: [{ field: 'date', descending: false }],
    related:
      known && key
        ? [
            {
              name: key.replace(/_id$/, ''),
              table: known.name,
              on: [{ from: key, to: known.primaryKey[0] ?? 'id' }],
              fields: known.columns.filter(column => /^(code|name)$/.test(column.name)).map(column => column.name),
              related: [],
            },
          ]
        : [],
    ageings: [
      { name: 'age', amount: 'open', asOf: table.asOf, dates, direction: 'past', columns: pastColumns.map(column => ({ ...column })) },
    ],
  }
}

const dateOf = (table: CatalogTable) =>
  table.columns.find(column => column.type === 'date' && !/due|expected|valid|until/.test(column.name))?.name
const moneyOf = (table: CatalogTable) =>
  (
    table.columns.find(column => column.name === 'total' && column.type === 'number') ??
    table.columns.find(column => column.name === 'amount' && column.type === 'number')
  )?.name
