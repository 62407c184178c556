import type { AxisGroup, CrosstabBlock } from '../../core/definition/blocks/crosstab'
import type { Block } from '../../core/definition/blocks/block'
import type { NestedBlock } from '../../core/definition/blocks/nested'
import type { ChartBlock } from '../../core/definition/blocks/chart'
import type { ParameterDefinition } from '../../core/definition/parameters'
import { formatVersion, type ReportDefinition } from '../../core/definition/report'
import { level, page, related } from './invoice'

const dates: ParameterDefinition[] = [
  { name: 'dates', label: 'Dates', kind: 'dates', required: true, default: 'addMonths(monthStart(today()), -6)', defaultTo: 'today()' },
]
/** Lines of invoices with what they belong to, in the company's currency. */
const soldLines: ReportDefinition['dataSets'] = [
  {
    name: 'main',
    source: 'caisvelho',
    fields: { 'line.base': { caption: 'Sales, EUR' }, 'line.profit': { caption: 'Profit, EUR' } },
    root: level('line', 'invoice_lines', {
      caption: 'Line',
      fields: ['invoice_id', 'line_no'],
      related: [
        related(
          'invoice',
          'invoices',
          'invoice_id',
          'id',
          ['invoice_date', 'rate'],
          [
            related('salesperson', 'salespeople', 'salesperson_id', 'id', ['name']),
            related(
              'customer',
              'customers',
              'customer_id',
              'id',
              ['code', 'name'],
              [related('town', 'towns', 'town_id', 'id', ['name'], [related('region', 'regions', 'region_id', 'id', ['name'])])],
            ),
          ],
        ),
        related(
          'item',
          'items',
          'item_id',
          'id',
          ['code', 'name', 'cost'],
          [related('category', 'item_categories', 'category_id', 'id', ['name'])],
        ),
      ],
      calculated: [
        { name: 'base', formula: 'round(amount * invoice.rate, 2)' },
        { name: 'profit', formula: 'base - round(quantity * item.cost, 2)' },
      ],
      filters: ['invoice.invoice_date between param.dates.from and param.dates.to', 'kind = "item"'],
    }),
  },
]

const group = (id: string, by: string, more: Partial<AxisGroup> = {}): AxisGroup => ({
  id,
  by,
  order: { by: 'name', descending: false },
  total: 'after',
  ...more,
})
const crosstab = (more: Pick<CrosstabBlock, 'rows' | 'columns' | 'measures'> & Partial<CrosstabBlock>): CrosstabBlock => ({
  kind: 'crosstab',
  id: 'grid',
  level: 'line',
  left: 0,
  width: 0,
  after: 8,
  wide: 'down',
  repeatTitles: true,
  ...more,
})

/** Regions and salespeople down, product categories across: what was sold, shaded by its amount. */
export function salesGrid(): ReportDefinition {
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: dates,
    dataSets: soldLines,
    layouts: page(
      [
        crosstab({
          rows: [
            group('region', 'invoice.customer.town.region.name', { caption: 'Region', none: 'Elsewhere' }),
            group('seller', 'invoice.salesperson.name', { caption: 'Salesperson', none: 'Nobody' }),
          ],
          columns: [group('category', 'item.category.name', { caption: 'Category', none: 'Other goods' })],
          measures: [{ id: 'sales', formula: 'sum(base)', format: '#,##0', shade: true }],
        }),
      ],
      'landscape',
      'Sales grid',
      '{{ param.dates }}',
    ),
  }
}

/** The items that earn most with their best customers, and all others: profit, sales and margin of each year. */
export function itemProfit(): ReportDefinition {
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [{ ...dates[0]!, default: 'addMonths(monthStart(today()), -24)' }],
    dataSets: soldLines,
    layouts: page(
      [
        crosstab({
          rows: [
            group('goods', 'item.name', {
              caption: 'Item',
              order: { by: 'total', total: 'sum(profit)', descending: true },
              top: { count: 12, total: 'sum(profit)', others: 'All other items' },
            }),
            group('buyer', 'invoice.customer.name', {
              caption: 'Customer',
              order: { by: 'total', total: 'sum(profit)', descending: true },
              top: { count: 3, total: 'sum(profit)', others: 'All others' },
            }),
          ],
          columns: [group('year', 'invoice.invoice_date', { step: 'year', caption: 'Year', order: { by: 'value', descending: false } })],
          measures: [
            { id: 'earned', formula: 'sum(profit)', format: '#,##0' },
            { id: 'sold', formula: 'sum(base)', format: '#,##0' },
            { id: 'margin', formula: 'sum(profit) / sum(base)', format: '0.0 %', caption: 'Margin' },
          ],
        }),
      ],
      'landscape',
      'Item profit',
      '{{ param.dates }}',
    ),
  }
}

const chart = (id: string, title: string, more: Partial<ChartBlock> & Pick<ChartBlock, 'form' | 'measures'>): ChartBlock => ({
  kind: 'chart',
  id,
  title,
  level: 'line',
  left: 0,
  width: 0,
  height: 212,
  after: 14,
  series: [],
  legend: false,
  figures: false,
  ...more,
})
const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']
const plain = { total: 'none' as const }
const thisYear = 'sum(base, where: year(invoice.invoice_date) = year(param.dates.to))'
const lastYear = 'sum(base, where: year(invoice.invoice_date) = year(param.dates.to) - 1)'

const yearly = [
  { id: 'now', formula: thisYear, format: '#,##0', caption: '{{ year(param.dates.to) }}' },
  { id: 'before', formula: lastYear, format: '#,##0', caption: '{{ year(param.dates.to) - 1 | 0 }}' },
] as const

/** What led from the sales of one year to those of the next. */
export const yearSteps: ChartBlock = chart('steps', 'From year to year, by salesperson', {
  form: 'steps',
  figures: true,
  by: group('seller', 'invoice.salesperson.name', {
    ...plain,
    order: { by: 'total', total: thisYear, descending: true },
    top: { count: 6, total: thisYear, others: 'All others' },
  }),
  measures: [yearly[1], yearly[0]],
})

/** The report of what led from the budget to the actual costs, for the period in which the dates end. */
const budgetSteps: NestedBlock = {
  kind: 'nested',
  id: 'budget',
  report: 'Budget steps',
  name: 'Budget steps',
  feeds: [{ parameter: 'period', formula: 'period(param.dates.to)' }],
  left: 0,
  width: 0,
  after: 0,
  most: 1,
}

/**
 * Four charts of a page: months against those of the year before, what was sold, to whom, and at last what led from the budget to the
 * actual costs.
 */
export function salesCharts(last: Block = budgetSteps): ReportDefinition {
  const [{ root, ...set }] = soldLines as [ReportDefinition['dataSets'][0]]
  const named = months.map((month, at) => `${at + 1}, "${month}"`).join(', ')
  const made = page(
    [
      chart('months', 'Sales by month against the year before, EUR', {
        form: 'bars',
        legend: true,
        by: group('month', 'month_name', { ...plain, order: { by: 'given', descending: false, given: months } }),
        measures: [yearly[0], { ...yearly[1], form: 'lines' }],
      }),
      chart('goods', 'What was sold, {{ year(param.dates.to) | 0 }}', {
        form: 'ring',
        by: group('category', 'item.category.name', { ...plain, none: 'Other goods' }),
        measures: [yearly[0]],
      }),
      chart('regions', 'Where it was sold, with the running share', {
        form: 'falling',
        by: group('region', 'invoice.customer.town.region.name', { ...plain, none: 'Elsewhere' }),
        measures: [yearly[0]],
      }),
      last,
    ],
    'landscape',
    'Sales charts',
    '{{ param.dates }}',
  )
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [{ ...dates[0]!, default: 'date(year(today()) - 1, 1, 1)' }],
    dataSets: [
      {
        ...set,
        root: {
          ...root,
          // the largest lines are a fair sample of months and goods while the page is made
          sort: [{ field: 'amount', descending: true }],
          calculated: [...root.calculated!, { name: 'month_name', formula: `choose(month(invoice.invoice_date), ${named}, "")` }],
        },
      },
    ],
    layouts: made.map(each => ({ ...each, page: { ...each.page, columns: { count: 2, gap: 24 } } })),
  }
}
