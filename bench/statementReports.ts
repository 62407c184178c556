import { laidStatement } from '../core/compose/statement/lay'
import { askCompany, readWhole, sourceSchema } from './support'
import { Composer } from '../core/compose/flow'
import type { Page } from '../core/compose/page'
import type { PreparedStatement } from '../core/compose/statement/prepare'
import type { DataRecords } from '../core/value/records'
import { changeStatement } from '../core/definition/edits/statement'
import type { ReportDefinition } from '../core/definition/report'
import { type Decimal, toNumber } from '../core/value/decimal'
import { valueAt } from '../core/value/columns'
import { statement } from '../demo/reports/statements'
import type { Estante } from '../server/estante'

/** An income statement over thirteen periods with their total. */
export function trend(): ReportDefinition {
  return changeStatement(statement('months'), 'statement', block => ({
    ...block,
    columns: block.columns.map(column => (column.repeat ? { ...column, repeat: { over: 'period', count: 13 } } : column)),
  }))
}

/** The same with the thirteen periods a year before, their budget, and each branch. */
export function wideTrend(): ReportDefinition {
  return changeStatement(trend(), 'statement', block => ({
    ...block,
    columns: [
      ...block.columns,
      { id: 'before', kind: 'activity', width: 0, span: { unit: 'last', anchor: 'param.period', count: 13, back: 1, backBy: 'year' } },
      { id: 'budget', kind: 'budget', width: 0, span: { unit: 'last', anchor: 'param.period', count: 13 } },
      { id: 'branch', kind: 'activity', width: 0, span: { unit: 'last', anchor: 'param.period', count: 13 }, repeat: { over: 'branch' } },
    ],
  }))
}

export interface Laid {
  data: DataRecords
  pages: Page[]
  /** the result of the thirteen periods */ result: number
}

/** The same with a column for each of the thirteen periods of the year before and of the budget. */
export function fullTrend(): ReportDefinition {
  const each = { repeat: { over: 'period' as const, count: 13 } }
  return changeStatement(wideTrend(), 'statement', block => ({
    ...block,
    columns: block.columns.map(column =>
      column.id === 'before'
        ? { ...column, span: { unit: 'period', anchor: 'param.period', back: 12, backBy: 'period' }, ...each }
        : column.id === 'budget'
          ? { ...column, span: { unit: 'period', anchor: 'param.period' }, ...each }
          : column,
    ),
  }))
}

/** From the request to the pages. */
export async function laid(estante: Estante, definition: ReportDefinition): Promise<Laid> {
  const { report, data, around } = await readWhole(estante, definition, { period: '2026-P07' })
  const composer = new Composer(report.layout, { ...around, boxes: true })
  const pages = [...composer.add(data), ...composer.end()]
  const { shaped, columns } = laidStatement(report.layout.blocks[0] as PreparedStatement, composer)
  const at = columns.findIndex(each => each.id === 'all')
  return { data: data, pages, result: toNumber(shaped.rows.find(row => row.line.id === 'result')!.exact[at]!) }
}

/** The figures of the trend by hand: each class of income and expense in each period, adjustments with the last. */
export async function byHand(estante: Estante): Promise<number> {
  const s = `"${sourceSchema}".`
  const rows = await askCompany(estante, {
    text: `select a.class, j.fiscal_year_id::numeric, least(j.period_number, 12)::numeric, sum(l.credit - l.debit) from
      ${s}journal_lines l join ${s}journals j on j.id = l.journal_id join ${s}accounts a on a.code = l.account_code
    where a.type in ('income', 'expense') and not j.is_closing and (j.fiscal_year_id, j.period_number) between (2025, 7) and (2026,
    7) group by 1, 2, 3`,
    values: [],
    columns: [
      { path: 'class', type: 'text' },
      { path: 'year', type: 'number', scale: 0 },
      { path: 'period', type: 'number', scale: 0 },
      { path: 'amount', type: 'number', scale: 2 },
    ],
  })
  return Array.from({ length: rows.count }, (_, row) => toNumber(valueAt(rows.columns[3]!, row) as Decimal)).reduce(
    (sum, value) => sum + value,
    0,
  )
}

/** Edits of lines as the sheet's hook takes them. */
export const lineEdits: [string, ...unknown[]][] = [
  ['setLine', 'statement', 'operatingExpenses', { expand: true }],
  ['setLine', 'statement', 'operatingExpenses', { accounts: '61*' }],
  ['setLine', 'statement', 'sales', { caption: 'Sales of goods' }],
  ['setLine', 'statement', 'grossProfit', { formula: 'totalIncome - costOfSales - services' }],
  ['addLine', 'statement', { kind: 'accounts', caption: 'Rent', accounts: '6110', indent: 1 }, 'personnel'],
  ['moveLine', 'statement', 'rent', 1],
  ['removeLine', 'statement', 'rent'],
  ['undo'],
  ['undo'],
  ['undo'],
  ['undo'],
  ['undo'],
  ['undo'],
  ['undo'],
]
