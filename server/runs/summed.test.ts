import type { PGlite } from '@electric-sql/pglite'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../core/books/catalog'
import { summedReport } from '../../core/compose/crosstab/summed'
import type { AxisGroup, CrosstabBlock, CrosstabMeasure } from '../../core/definition/blocks/crosstab'
import type { ReportDefinition } from '../../core/definition/report'
import { itemProfit, salesGrid } from '../../demo/reports/grids'
import { by, level, page, related } from '../../demo/reports/invoice'
import { pagesOfRun, runOver } from '../../tests/runs'
import { demoDatabase } from '../../tests/support'
import { readyRun } from './ready'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})

const group = (id: string, formula: string, more: Partial<AxisGroup> = {}): AxisGroup => ({
  id,
  by: formula,
  order: { by: 'name', descending: false },
  total: 'after',
  ...more,
})

/** Groups of lines, and of the invoices above them. */
const groups: Record<string, AxisGroup> = {
  customer: group('customer', 'invoice.customer.name', { top: { count: 6, total: 'sum(amount)', others: 'Others' } }),
  town: group('town', 'invoice.customer.town.name', {
    order: { by: 'total', total: 'sum(amount)', descending: true },
    top: { count: 5, total: 'count(lines)' },
  }),
  category: group('category', 'item.category.name', { none: 'Services' }),
  month: group('month', 'invoice.invoice_date', { step: 'month', order: { by: 'value', descending: false } }),
  quarter: group('quarter', 'invoice.invoice_date', { step: 'quarter', order: { by: 'value', descending: true } }),
  week: group('week', 'invoice_date', {
    step: 'week',
    order: { by: 'value', descending: false },
    top: { count: 4, total: 'sum(quantity)' },
  }),
  period: group('period', 'invoice.invoice_date', { step: 'period', order: { by: 'value', descending: false } }),
  year: group('year', 'invoice.invoice_date', { step: 'year', order: { by: 'value', descending: false }, total: 'before' }),
  kind: group('kind', 'kind', { having: 'count(lines) > 20' }),
  number: group('number', 'invoice.number', { top: { count: 7, total: 'max(amount)', last: true }, total: 'none' }),
}
const measures: CrosstabMeasure[] = [
  { id: 'amount', formula: 'sum(amount * invoice.rate)' },
  { id: 'lines', formula: 'count(lines)', look: 'shareOfRow' },
  { id: 'goods', formula: 'sum(quantity, where: kind = "item")', format: '#,##0.0##', shade: true },
  { id: 'mean', formula: 'sum(quantity * unit_price) / count(amount)', format: '0.00' },
  { id: 'most', formula: 'max(quantity)', look: 'difference' },
  { id: 'first', formula: 'min(invoice.invoice_date)' },
  { id: 'along', formula: 'sum(quantity)', look: 'running' },
  { id: 'named', formula: 'count(item.code)', look: 'shareOfAll' },
]

function report(down: string[], across: string[], figures: CrosstabMeasure[], root: boolean): ReportDefinition {
  const invoice = {
    related: [
      related('customer', 'customers', 'customer_id', 'id', ['code', 'name'], [related('town', 'towns', 'town_id', 'id', ['name'])]),
    ],
  }
  const item = related('item', 'items', 'item_id', 'id', ['code'], [related('category', 'item_categories', 'category_id', 'id', ['name'])])
  const lines = { fields: ['kind', 'amount', 'quantity'], filters: ['amount != 0'] }
  const crosstab: CrosstabBlock = {
    kind: 'crosstab',
    id: 'grid',
    level: 'lines',
    left: 0,
    width: 0,
    after: 6,
    rows: down.map(name => groups[name]!),
    columns: across.map(name => groups[name]!),
    measures: figures,
    wide: 'down',
    repeatTitles: true,
  }
  const filters = ['invoice_date >= date(2026, 3, 1)']
  return {
    format: 2,
    language: 'en-GB',
    parameters: [],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: {},
        root: root
          ? level('lines', 'invoice_lines', {
              ...lines,
              filters: [...lines.filters, ...filters.map(each => `invoice.${each}`)],
              related: [item, related('invoice', 'invoices', 'invoice_id', 'id', ['number'], invoice.related)],
            })
          : level('invoice', 'invoices', {
              ...invoice,
              fields: ['number', 'invoice_date'],
              filters,
              sort: [by('number')],
              details: [level('lines', 'invoice_lines', { ...lines, related: [item], on: [{ from: 'id', to: 'invoice_id' }] })],
            }),
      },
    ],
    layouts: page([crosstab], 'landscape', 'Grid', 'of lines'),
  }
}

/** All that is drawn on the pages of a run: from groups that the source has added up, or from the records, as a run that keeps them. */
async function drawn(definition: ReportDefinition, answers: Record<string, string>, keeps: boolean): Promise<unknown[]> {
  const { pages } = await pagesOfRun(db, runOver(catalog, definition, { answers, ...(keeps ? { keeps } : {}) }))
  return pages.map(each => each.items)
}
const isSummed = (definition: ReportDefinition) => {
  const ready = readyRun(runOver(catalog, definition))
  return !!summedReport(ready.definition, ready.catalog, ready.report)
}

describe('a crosstab over groups that the source adds up', () => {
  it('draws what one over the records does: groups, orders, top n, margins and looks', async () => {
    const names = fc.uniqueArray(fc.constantFrom(...Object.keys(groups)), { minLength: 1, maxLength: 4 })
    let summed = 0
    await fc.assert(
      fc.asyncProperty(
        names,
        fc.nat(3),
        fc.uniqueArray(fc.constantFrom(...measures), { minLength: 1, maxLength: 3, selector: each => each.id }),
        fc.boolean(),
        async (some, cut, figures, root) => {
          // the date of an invoice is a field of the lines' own only where there are invoices above them
          const used = some.map(name => (root && name === 'week' ? 'month' : name))
          const distinct = [...new Set(used)]
          const definition = report(distinct.slice(0, cut), distinct.slice(cut), figures, root)
          if (isSummed(definition)) summed++
          expect(await drawn(definition, {}, false)).toEqual(await drawn(definition, {}, true))
        },
      ),
      { numRuns: 60 },
    )
    expect(summed).toBeGreaterThan(40)
  })

  it('is taken where it may be, also of the reports that come with the program', async () => {
    for (const definition of [salesGrid(), itemProfit()])
      expect(await drawn(definition, {}, false)).toEqual(await drawn(definition, {}, true))
    expect([salesGrid(), itemProfit()].map(isSummed)).toEqual([true, true])
  })

  it('is not taken where a margin cannot be worked out from its cells, or a header would be counted for each line', () => {
    const of = (formula: string) => isSummed(report(['category'], ['month'], [{ id: 'figure', formula }], false))
    expect(of('sum(quantity)')).toBe(true)
    for (const formula of ['distinct(item.code)', 'median(quantity)', 'sum(invoice.freight)', 'sum(quantity, over: report)', 'first(kind)'])
      expect([formula, of(formula)]).toEqual([formula, false])
  })
})
