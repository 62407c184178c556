import { blocksOf } from '../definition/walk'
import { isTable } from '../definition/blocks/table'
import type { LedgerTable } from '../definition/tables'
import type { AccountNature, LedgerMap } from '../books/ledger'
import type { FiscalCalendar } from '../books/calendar'
import { isStatementBlock, type StatementBlock, type StatementColumn } from '../definition/blocks/statement'
import type { ReportDefinition } from '../definition/report'
import type { Catalog } from '../books/catalog'
import { type CatalogColumn, findTable } from '../catalog/types'
import type { LevelDefinition } from '../definition/levels'

/** A ledger table of a report with what its statements ask of it. */
export interface OwnLedger {
  kind: 'ledger'
  definition: LedgerTable
  map: LedgerMap
  calendar: FiscalCalendar
  columns: StatementColumn[]
  /** words of the types of accounts that its statements can speak of; all where nothing is said */
  types?: string[]
  /** rows stand apart by branch or department */
  branch: boolean
  department: boolean
  /** accounts are left out, so the results of years before come in rows of their own */
  results: boolean
  /** digits after the mark of the amounts, where the source declares them */
  scale?: number
}

/** All statements of a report, those inside repeats too. */
export function statementsOf(report: ReportDefinition): StatementBlock[] {
  return report.layouts.flatMap(blocksOf).filter(isStatementBlock)
}

/** All that says how the books are read, beside data sets and parameters: as long as it stays, `ownLedger` gives the same. */
export function ledgerAskers(report: ReportDefinition): readonly unknown[] {
  if (!report.tables?.some(each => each.kind === 'ledger')) return []
  const listed = report.layouts.flatMap(blocksOf).flatMap(block => (isTable(block) ? [block.level] : []))
  return [...statementsOf(report), report.tieOuts, [...new Set(listed)].sort().join('\n')]
}

/** A ledger table as the report's statements need it; nothing where the source has no books. */
export function ownLedger(definition: LedgerTable, report: ReportDefinition, catalog: Catalog): OwnLedger | undefined {
  const { ledger: map, calendar } = catalog
  if (!map || !calendar) return undefined
  const levels = new Set(report.dataSets.flatMap(dataSet => levelsOfTable(dataSet.root, `@${definition.name}`).map(level => level.name)))
  const statements = statementsOf(report).filter(block => levels.has(block.level))
  const columns = statements.flatMap(block => block.columns)
  // levels that show a branch, or join on it, need rows by branch too
  const onLevels = report.dataSets.flatMap(dataSet => fieldsOfTable(dataSet.root, `@${definition.name}`))
  const asks = (one: 'branches' | 'departments', over: 'branch' | 'department') =>
    onLevels.includes(over) ||
    statements.some(
      block =>
        block.lines.some(line => line[one]?.length) || block.columns.some(column => column[one]?.length || column.repeat?.over === over),
    )
  // tables and tie-outs that speak of the rows themselves want all of them
  const figures = (report.tieOuts ?? []).flatMap(each => [each.left, each.right])
  const dataSets = report.dataSets.filter(dataSet => levelsOfTable(dataSet.root, `@${definition.name}`).length).map(dataSet => dataSet.name)
  const listed =
    report.layouts.flatMap(blocksOf).some(block => isTable(block) && levels.has(block.level)) ||
    figures.some(figure => figure.is === 'formula' && dataSets.includes(figure.dataSet) && !/\baccount_type\b/.test(figure.formula))
  const asked = figures.flatMap(figure =>
    figure.is === 'trial' && statements.some(block => block.id === figure.statement) ? figure.types : [],
  )
  const types = listed ? undefined : typesOf(statements, map, asked)
  const filters = [
    ...definition.filters,
    ...report.dataSets.flatMap(dataSet => levelsOfTable(dataSet.root, `@${definition.name}`).flatMap(level => level.filters)),
  ]
  const results = columns.some(column => column.kind === 'balance' || column.kind === 'opening') && filters.some(speaksOfAccounts)
  const scale = scaleOfBooks(map, catalog)
  return {
    kind: 'ledger',
    definition,
    map,
    calendar,
    columns,
    ...(types ? { types } : {}),
    branch: !!map.lines.branch && asks('branches', 'branch'),
    department: !!map.lines.department && asks('departments', 'department'),
    results,
    ...(scale === undefined ? {} : { scale }),
  }
}

const speaksOfAccounts = (filter: string) => /\baccount(_\w+)?\b/.test(filter)

/** The most digits that any amount of the books declares; nothing where one declares none. */
function scaleOfBooks({ lines, budgets }: LedgerMap, catalog: Catalog): number | undefined {
  const scales = [
    ...[lines.debit, lines.credit, lines.amount].map(name => [lines.table, name] as const),
    ...(budgets ? [[budgets.table, budgets.amount] as const] : []),
  ].flatMap(([table, name]) => (name === undefined ? [] : [findTable(catalog, table)?.columns.find(each => each.name === name)?.scale]))
  return scales.includes(undefined) ? undefined : Math.max(...(scales as number[]))
}

/** Columns of a ledger table; the first ones, up to the department, tell its rows apart. */
export function ledgerColumns(own: Pick<OwnLedger, 'branch' | 'department' | 'results' | 'scale'>): {
  columns: CatalogColumn[]
  key: string[]
} {
  const units = [...(own.branch ? ['branch'] : []), ...(own.department ? ['department'] : [])]
  return {
    columns: [
      text('account'),
      text('account_name', 'Name'),
      text('account_type', 'Type'),
      text('account_class', 'Class'),
      text('account_parent', 'Stands under'),
      text('period'),
      text('version', 'Budget version'),
      ...units.map(name => text(name)),
      ...['debit', 'credit', 'amount'].map(name => money(name, own.scale)),
      ...(own.results ? [money('results', own.scale, 'Results of years before'), text('result_of', 'Result of account')] : []),
    ],
    key: ['account', 'period', 'version', ...units],
  }
}

/** Levels that read a table. */
export const levelsOfTable = (level: LevelDefinition, table: string): LevelDefinition[] => [
  ...(level.table === table ? [level] : []),
  ...level.details.flatMap(each => levelsOfTable(each, table)),
]
/** Columns of a table that levels show or join on. */
export const fieldsOfTable = (level: LevelDefinition, table: string): string[] =>
  levelsOfTable(level, table).flatMap(each => [...each.fields, ...each.on.map(pair => pair.to), ...each.sort.map(sort => sort.field)])

/**
 * Where all lines name whole classes and types (and tie-outs ask for no others), only accounts of these types are read: an income
 * statement needs no balance sheet accounts. Balances need all, since results go into equity.
 */
export function typesOf(statements: readonly StatementBlock[], map: LedgerMap, asked: readonly AccountNature[]): string[] | undefined {
  if (!statements.length || statements.some(block => block.columns.some(column => column.kind === 'balance' || column.kind === 'opening')))
    return undefined
  const natures = new Set<string>(asked)
  for (const line of statements.flatMap(block => block.lines)) {
    if (line.kind !== 'accounts') continue
    const [taken] = (line.accounts ?? '').split(/\bexcept\b/)
    for (const item of taken!.match(/(?:"(?:[^"]|"")*"|[^,"])+/g) ?? []) {
      const type = /^\s*type\s+(\w+)\s*$/i.exec(item)?.[1]?.toLowerCase()
      const group = /^\s*class\s+(?:"((?:[^"]|"")*)"|(\S+))\s*$/.exec(item)
      const nature =
        type ??
        map.classes?.find(each => each.name.toLowerCase() === (group?.[1]?.replaceAll('""', '"') ?? group?.[2])?.toLowerCase())?.nature
      if (!nature) return undefined
      for (const each of nature === 'result' ? ['income', 'expense'] : [nature]) natures.add(each)
    }
  }
  const words = Object.entries(map.types)
    .filter(([, nature]) => natures.has(nature))
    .map(([word]) => word)
  return words.length && words.length < Object.keys(map.types).length ? words : undefined
}

export const text = (name: string, caption?: string): CatalogColumn => ({
  name,
  type: 'text',
  databaseType: 'text',
  required: false,
  ...(caption ? { caption } : {}),
})
const money = (name: string, scale: number | undefined, caption?: string): CatalogColumn => ({
  name,
  type: 'number',
  ...(scale === undefined ? {} : { scale }),
  databaseType: 'numeric',
  required: false,
  format: '#,##0.00',
  ...(caption ? { caption } : {}),
})
