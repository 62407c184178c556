import { company, median, ms, note } from './harness'
import { inBrowser, keepReport, paintedEdits } from './browser'
import { group, level, report } from './definitions'
import type { CrosstabBlock } from '../core/definition/blocks/crosstab'
import type { Block } from '../core/definition/blocks/block'

/** Accounts with the lines posted on them: all accounts are pinned, and with them every line. */
const posted = level('account', 'accounts', {
  fields: ['code', 'name'],
  details: [
    level('lines', 'journal_lines', {
      on: [{ from: 'code', to: 'account_code' }],
      fields: ['debit', 'credit'],
      related: [
        { name: 'journal', table: 'journals', on: [{ from: 'journal_id', to: 'id' }], fields: ['posting_date'], related: [] },
        { name: 'branch', table: 'branches', on: [{ from: 'branch_id', to: 'id' }], fields: ['name'], related: [] },
      ],
    }),
  ],
})

/** Edits of a crosstab that fills a page, and a chart of ten thousand points, each from the press of a key to the painted page. */
export async function grids(): Promise<void> {
  await inBrowser(await company(1), async (tab, address) => {
    // twenty rows of 24 months: a page of 480 cells, over two hundred records
    const crosstab: CrosstabBlock = {
      kind: 'crosstab',
      id: 'grid',
      level: 'order',
      left: 0,
      width: 0,
      after: 8,
      rows: [
        group('buyer', 'customer.name', {
          order: { by: 'name', descending: false },
          top: { count: 19, total: 'count(order)', others: 'Others' },
        }),
      ],
      columns: [group('day', 'order_date', { step: 'day', top: { count: 23, total: 'count(order)', others: 'Other days' } })],
      measures: [{ id: 'count', formula: 'count(order)' }],
      wide: 'smaller',
      repeatTitles: true,
    }
    const orders = level('order', 'orders', {
      fields: ['number', 'order_date'],
      related: [{ name: 'customer', table: 'customers', on: [{ from: 'customer_id', to: 'id' }], fields: ['name'], related: [] }],
    })
    const made = await keepReport(address, report(orders, crosstab))
    await tab.goto(`${address}/reports/${made}/page`)
    await tab.waitForFunction(() => document.querySelector('[data-page-text]')?.textContent?.includes('Others'))
    await tab.waitForTimeout(1500)
    const cells = await tab.evaluate(
      () =>
        (window as unknown as { estanteSheet(): { pages: Map<number, { boxes: { part: string; cell?: string }[] }> } })
          .estanteSheet()
          .pages.get(0)!
          .boxes.filter(box => box.part === 'line' && box.cell && !box.cell.startsWith('title')).length,
    )
    const times = await paintedEdits(
      tab,
      [
        ['setMeasure', 'grid', 'count', { caption: 'Orders' }],
        ['setMeasure', 'grid', 'count', { format: '0.0' }],
        ['setMeasure', 'grid', 'count', { shade: true }],
        ['setMeasure', 'grid', 'count', { look: 'shareOfRow' }],
        ['setAxisGroup', 'grid', 'buyer', { order: { by: 'name', descending: true } }],
        ['setAxisGroup', 'grid', 'day', { total: 'none' }],
        ['swapAxes', 'grid'],
        ['setLayout', 'Standard', { theme: 'banded' }],
        ...Array.from({ length: 8 }, (): ['undo'] => ['undo']),
      ],
      7,
    )
    const sorted = [...times].sort((a, b) => a - b)
    const high = sorted[Math.floor(sorted.length * 0.95)]!
    note(
      `named edits on a crosstab page of ${cells} cells, key to painted page`,
      `median ${ms(median(times))}, 95th percentile ${ms(high)}`,
      '≤ 50 ms, ≤ 100 ms',
      median(times) <= 50 && high <= 100,
    )
    const chart: Block = {
      kind: 'chart',
      id: 'chart',
      level: 'lines',
      by: group('journal', 'journal_id', { total: 'none', top: { count: 10_000, total: 'sum(debit)' } }),
      measures: [{ id: 'debit', formula: 'sum(debit)' }],
      left: 0,
      width: 0,
      height: 400,
      after: 0,
      form: 'lines',
      series: [],
      legend: false,
      figures: false,
    }
    const drawn = await keepReport(address, report(posted, chart))
    await tab.goto(`${address}/reports/${drawn}/page`)
    await tab.waitForFunction(() => document.querySelector('[data-page-text]')?.textContent?.includes('lines of'))
    await tab.waitForTimeout(1500)
    const painted = await paintedEdits(
      tab,
      [['setAfter', 'chart', 4], ['setLayout', 'Standard', { theme: 'banded' }], ['undo'], ['undo']],
      9,
    )
    note('a chart of 10,000 points on the sheet, key to painted page', `median ${ms(median(painted))}`, '≤ 50 ms', median(painted) <= 50)
  })
}
