import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { groupedLines } from '../../bench/groups'
import type { Box, Page } from '../../core/compose/page'
import type { ReportDefinition } from '../../core/definition/report'
import { salesCharts, salesGrid, yearSteps } from '../../demo/reports/grids'
import { salesInvoice } from '../../demo/reports/invoice'
import { askCompany, demoData, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import type { RunRecord } from './runRecord'

let estante: Estante
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

async function run(definition: ReportDefinition, answers: Record<string, string> = {}): Promise<{ run: RunRecord; pages: Page[] }> {
  const found = estante.runs.start(tester, await estante.input(tester, 'Report', definition, answers), 'report')
  await found.over
  expect(found.sentences).toBeUndefined()
  return { run: found, pages: (await estante.runs.files.pages(tester, found, 0, 1e6)).map(text => JSON.parse(text) as Page) }
}
const behind = (of: RunRecord, page: number, { block, cell, rowId, x, y }: Box) =>
  estante.runs.files.behind(tester, of, { page, block, cell: cell!, x, y, ...(rowId ? { rowId } : {}) })
const number = async (text: string): Promise<string> => {
  const { columns } = await askCompany(estante, { text, values: [], columns: [{ path: 'x', type: 'text' }] })
  return String((columns[0] as { values: (string | null)[] }).values[0])
}
const textIn = (page: Page, box: Box): string =>
  page.items
    .flatMap(item =>
      item.kind === 'text' && item.y > box.y && item.y <= box.y + box.height + 0.1 && item.x >= box.x - 1 && item.x < box.x + box.width
        ? [item.text]
        : [],
    )
    .join(' ')

describe('behind a figure on the pages of a run', () => {
  it('subtotals of groups, on any page, are the sums and counts of their records', async () => {
    const { run: of, pages } = await run(groupedLines(3000))
    const places = pages.flatMap((page, index) =>
      page.boxes.filter(box => box.part === 'groupEnd' && box.cell).map(box => ({ index, box, text: textIn(page, box) })),
    )
    expect(pages.length).toBeGreaterThan(20)
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...places), async ({ index, box, text }) => {
        const lists = await behind(of, index, box)
        if (/ lines$/.test(text)) expect(`${lists[0]!.count.toLocaleString('en')} lines`).toBe(text)
        else if (lists.length) expect(lists[0]!.sum).toBe(text)
        else expect(text).not.toMatch(/^[\d.,−]+$/)
      }),
      { numRuns: 25 },
    )
  })

  it('an invoice late in the run leads to its own lines, and a figure of its own to none', async () => {
    const { run: of, pages } = await run(salesInvoice(), { month: '2026-03' })
    const index = pages.length - 2
    const page = pages[index]!
    const totals = page.boxes.filter(box => box.cell && box.part !== 'titles')
    const counts = new Set<number>()
    for (const box of totals) for (const list of await behind(of, index, box)) counts.add(list.count)
    const id = page.label ?? pages.slice(0, index).findLast(each => each.label)!.label!
    const found = /[A-Z]{2}-?[\w/-]+/.exec(id)![0]
    const lines = Number(
      await number(
        `select count(*)::text from company.invoice_lines l join company.invoices i on i.id = l.invoice_id where i.number = '${found}'`,
      ),
    )
    expect(lines).toBeGreaterThan(0)
    for (const count of counts) expect(count).toBeLessThanOrEqual(lines)
  })

  it('a mark of a chart and a cell and a margin of a crosstab lead to the records of their groups', async () => {
    const grid = await run(salesGrid())
    const cells = grid.pages.flatMap((page, index) =>
      page.boxes
        .filter(box => box.cell && /^[\d.,−]+$/.test(textIn(page, box)))
        .map(box => ({ index, box, text: textIn(page, box).replace(/,/g, '') })),
    )
    expect(cells.length).toBeGreaterThan(50)
    for (const { index, box, text } of [...cells.slice(0, 12), ...cells.slice(-8)]) {
      const [list] = await behind(grid.run, index, box)
      expect(Math.abs(Number(list!.sum!.replace(/,/g, '').replace('−', '-')) - Number(text.replace('−', '-')))).toBeLessThan(0.51)
    }
    const charts = await run(salesCharts(yearSteps))
    const marks = charts.pages.flatMap((page, index) =>
      page.boxes.filter(box => box.label && box.cell && !box.cell.startsWith('mark')).map(box => ({ index, box })),
    )
    expect(marks.length).toBeGreaterThan(20)
    for (const { index, box } of marks.filter((_, at) => at % 9 === 0)) {
      const lists = await behind(charts.run, index, box)
      expect(lists[0]!.count, box.label).toBeGreaterThan(0)
    }
  })

  it('a figure that is not there is refused with a sentence', async () => {
    const { run: of, pages } = await run(salesGrid())
    const box = pages[0]!.boxes.find(each => each.cell)!
    await expect(behind(of, 0, { ...box, x: box.x + 5 })).rejects.toMatchObject({
      sentences: ['This figure is not on its page any more; run the report again.'],
    })
    await expect(behind(of, 99, box)).rejects.toMatchObject({
      sentences: ['There is no page 100 in this run any more; run the report again.'],
    })
  })
})
