import { company, median, ms, note, scale } from './harness'
import { inBrowser, keepReport, paintedEdits, dragged } from './browser'
import { themes } from '../core/compose/themes'
import { plainTable } from '../core/definition/upgrade'
import type { ReportDefinition } from '../core/definition/report'
import { salesInvoice } from '../demo/reports/invoice'
import { invoiceRegister } from '../demo/reports/reports'

/** Twelve named edits on a page of 60 rows and 10 columns with 200 pinned records, each from the press of a key to the painted page. */
export async function page(): Promise<void> {
  await inBrowser(await company(1), async (tab, address) => {
    const id = await keepReport(address, wideList())
    await tab.goto(`${address}/reports/${id}/page`)
    await tab.waitForFunction(() => document.querySelector('[data-page-text]')?.textContent?.includes('Customer'))
    await tab.waitForTimeout(1500)
    const rows = await tab.evaluate(
      () =>
        (window as unknown as { estanteSheet(): { pages: Map<number, { boxes: { part: string; cell?: string }[] }> } })
          .estanteSheet()
          .pages.get(0)!
          .boxes.filter(box => box.part === 'line' && !box.cell).length,
    )
    const rate = await dragged(tab)
    note('a column dragged over sixty widths, pages painted', `${Math.round(rate)} a second`, '≥ 30 a second', rate >= 30)
    const times = await paintedEdits(tab, namedEdits, 9)
    const sorted = [...times].sort((a, b) => a - b)
    const high = sorted[Math.floor(sorted.length * 0.95)]!
    note(
      `twelve named edits on a page of ${rows} lines × 10 columns, key to painted page`,
      `median ${ms(median(times))}, 95th percentile ${ms(high)}`,
      '≤ 20 ms, ≤ 40 ms',
      median(times) <= 20 && high <= 40,
    )
    namedEdits.forEach(([name], index) =>
      console.log(`  ${String(name)}: ${ms(median(times.filter((_, at) => at % namedEdits.length === index)))}`),
    )
  })
}

/** Edits that need no query, as the sheet's hook takes them. */
const namedEdits: [string, ...unknown[]][] = [
  ['setText', { block: 'list', cell: 'number', part: 'titles' }, 'Document'],
  ['setField', 'invoice.total', { format: '#,##0' }],
  ['setColumnWidth', 'list', 'town', 60],
  ['setStyle', 'list', 'customer', { bold: true }],
  ['insertColumn', 'list', 2, { title: 'Number', text: '{{ number }}', width: 50 }],
  ['removeColumn', 'list', 'column1'],
  ['setTotal', 'list', 'tax', { kind: 'end' }, '{{ sum(tax_total) }}'],
  ['addGroup', 'list', { id: 'sort', by: 'kind', order: { by: 'name', descending: false } }],
  ['setRowWhen', 'list', 'line', 'total > 0'],
  ['setTable', 'list', { sort: [{ field: 'total', descending: true }] }],
  ['setLayout', 'Standard', { theme: 'banded' }],
  ['undo'],
  ['undo'],
  ['undo'],
  ['undo'],
  ['undo'],
  ['undo'],
  ['undo'],
  ['undo'],
  ['undo'],
  ['undo'],
  ['undo'],
]

function wideList(): ReportDefinition {
  const base = invoiceRegister()
  const [, customers] = base.dataSets
  const list = plainTable(
    'list',
    'invoice',
    [
      { id: 'number', title: 'Number', text: '{{ number }}', width: 50 },
      { id: 'date', title: 'Date', text: '{{ invoice_date }}', width: 50 },
      { id: 'customer', title: 'Customer', text: '{{ customer.name }}', width: 0, style: { overflow: 'cut' } },
      { id: 'town', title: 'Town', text: '{{ customer.town.name }}', width: 56 },
      { id: 'kind', title: 'Kind', text: '{{ kind }}', width: 44 },
      { id: 'currency', title: '', text: '{{ currency_code }}', width: 24 },
      { id: 'lines', title: 'Lines', text: '{{ lines_total }}', width: 50, style: { align: 'right' } },
      { id: 'tax', title: 'Tax', text: '{{ tax_total }}', width: 46, style: { align: 'right' } },
      { id: 'total', title: 'Total', text: '{{ total }}', width: 50, style: { align: 'right' } },
      { id: 'open', title: 'Open', text: '{{ open }}', width: 50, style: { align: 'right' } },
    ].map(each => ({ ...each, style: { ...each.style, size: 6.5 } })) as never,
  )
  return {
    ...base,
    dataSets: [{ ...base.dataSets[0]!, root: { ...base.dataSets[0]!.root, filters: [] } }, customers!],
    parameters: base.parameters,
    themes: [{ ...themes[0]!, name: 'tight', padding: { x: 2, y: 1.1 } }],
    layouts: [
      {
        name: 'Standard',
        theme: 'tight',
        page: { size: 'A4', orientation: 'portrait', margins: { top: 30, right: 30, bottom: 30, left: 30 } },
        blocks: [list],
      },
    ],
  }
}

/** A scripted scroll through a result of 2,000 pages in the Run view. */
export async function scroll(): Promise<void> {
  await inBrowser(await company(scale >= 40 ? 40 : 1), async (tab, address) => {
    const definition = salesInvoice()
    definition.parameters = []
    definition.dataSets[0]!.root.filters = ['kind = "invoice"', 'id <= 2060']
    const id = await keepReport(address, definition)
    await fetch(`${address}/api/reports/${id}/publish`, { method: 'POST', headers: { origin: address } })
    await tab.goto(`${address}/run/${id}`)
    await tab.waitForFunction(() => /[12],\d\d\d pages/.test(document.querySelector('[data-run-count]')?.textContent ?? ''), undefined, {
      timeout: 120_000,
    })
    await tab.waitForTimeout(1000)
    const found = await tab.evaluate(async () => {
      const view = document.querySelector('main .desk')!
      const heap = () => (performance as unknown as { memory: { usedJSHeapSize: number } }).memory.usedJSHeapSize
      const frames: number[] = []
      const heaps: number[] = []
      let last = performance.now()
      const step = view.scrollHeight / 2400
      for (let at = 0; at < 2400; at++) {
        view.scrollTop = at * step
        await new Promise(requestAnimationFrame)
        const now = performance.now()
        frames.push(now - last)
        last = now
        if (at % 240 === 239) heaps.push(heap())
      }
      return { frames, heaps, pages: document.querySelector('[data-run-count]')!.textContent! }
    })
    const sorted = found.frames.sort((a, b) => a - b)
    const high = sorted[Math.floor(sorted.length * 0.99)]!
    note(
      `a scripted scroll through ${found.pages.split(' ·')[0]}`,
      `99th percentile ${ms(high)}, longest ${ms(sorted.at(-1)!)}`,
      '≤ 50 ms',
      high <= 50,
    )
    const [early, late] = [Math.max(...found.heaps.slice(0, 3)), Math.max(...found.heaps.slice(-3))]
    note(
      'heap of the page, last third of the scroll against the first',
      `${(late / early).toFixed(2)} × (${Math.round(late / 1e6)} MB)`,
      'flat',
      late / early <= 1.2,
    )
  })
}
