import type { PGlite } from '@electric-sql/pglite'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../../core/books/catalog'
import { type ChartBlock, isChart } from '../../../core/definition/blocks/chart'
import { changeChart } from '../../../core/definition/edits/chart'
import { changeBlock } from '../../../core/definition/edits/layout'
import type { ReportDefinition } from '../../../core/definition/report'
import { parseDecimal } from '../../../core/value/decimal'
import { numberFormat } from '../../../core/value/numberFormat'
import { salesCharts, salesGrid, yearSteps } from '../../../demo/reports/grids'
import { statement } from '../../../demo/reports/statements'
import { composeReport } from '../../pages'
import { demoDatabase } from '../../support'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const answers = { dates: '2025-01-01..2026-09-30' }
type Row = Record<string, string | null>
const rows = async (text: string) => (await db.query<Row>(text)).rows
const from = `from invoice_lines l join invoices i on i.id = l.invoice_id join items t on t.id = l.item_id
  left join item_categories c on c.id = t.category_id
  where l.kind = 'item' and i.invoice_date between '2025-01-01' and '2026-09-30'`
const base = 'round(l.amount * i.rate, 2)'
const printed = (value: string, pattern = '#,##0') => numberFormat(pattern, 'en-GB')(parseDecimal(value)!)

/** The chart of goods changed, alone on its page; its labels in order, and what is noticed of it. */
async function drawn(
  change: Partial<ChartBlock>,
  report: ReportDefinition = salesCharts(yearSteps),
  id = 'goods',
  given: Record<string, string> = answers,
) {
  const changed = changeChart(report, id, own => ({ ...own, ...change }))
  const { pages, notices } = await composeReport(db, catalog, changed, given)
  const boxes = pages.flatMap(page => page.boxes).filter(box => box.block === id)
  const marks = boxes.filter(box => box.cell && box.label)
  return {
    labels: [...new Set(marks.map(box => box.label!))],
    cells: [...new Set(marks.map(box => box.cell!))],
    told: boxes.find(box => !box.cell)?.label ?? '',
    notices: notices.filter(each => each.block === id && each.kind !== 'overlap').map(each => each.sentence),
  }
}
const measure = (formula: string, format = '#,##0') => [{ id: 'figure', formula, format }]

describe('parts of a whole', () => {
  it('are exact however large: all others are worked out from their records, not from what is drawn', async () => {
    const factor = '987654321987.6543'
    const { labels, notices } = await drawn({ measures: measure(`sum(base) * ${factor}`, '#,##0.000000') })
    const goods = await rows(
      `select coalesce(c.name, 'Other goods') as name, (sum(${base}) * ${factor})::text as sales
         ${from} group by 1 order by sum(${base}) desc`,
    )
    const [rest] = await rows(
      `select (sum(${base}) * ${factor})::text as sales ${from} and coalesce(c.name, 'Other goods') not in (${goods
        .slice(0, 6)
        .map(each => `'${each.name}'`)
        .join(', ')})`,
    )
    expect(labels).toEqual([
      ...goods.slice(0, 6).map(each => `${each.name} · ${printed(each.sales!, '#,##0.000000')}`),
      `All others · ${printed(rest!.sales!, '#,##0.000000')}`,
    ])
    expect(notices).toEqual([])
  })

  it('are refused where figures do not add up: different customers, averages and margins are drawn as bars, and it is said', async () => {
    for (const formula of ['distinct(invoice.customer.name)', 'average(base)', 'sum(profit) / sum(base)']) {
      const { told, notices } = await drawn({ measures: measure(formula, '#,##0.000') })
      expect([formula, told.includes('bars side by side'), notices]).toEqual([
        formula,
        true,
        [expect.stringMatching(/ of all is not the sum of its parts: it is drawn as bars\.$/)],
      ])
    }
  })

  it('are refused below zero, and in falling order have no running share there', async () => {
    const below = measure('sum(base) - 200000')
    const pie = await drawn({ measures: below })
    expect(pie.notices).toEqual([expect.stringContaining('is below zero, and no part of a whole: it is drawn as bars.')])
    const falling = await drawn({ form: 'falling', measures: below })
    expect(falling.notices).toEqual([expect.stringContaining('is below zero, and no part of a whole: the bars have no running share.')])
    const figures = falling.labels.map(label => Number(label.split(' · ')[1]!.replaceAll(',', '').replace('−', '-')))
    expect(figures).toEqual([...figures].sort((a, b) => b - a))
  })
})

describe('steps', () => {
  it('lead exactly from one figure to the other; what is behind a difference is nothing, behind its ends all records', async () => {
    const { labels, cells, notices } = await drawn({
      form: 'steps',
      measures: [
        { id: 'bought', formula: 'sum(base) - sum(profit)', format: '#,##0.00', caption: 'Cost' },
        { id: 'sold', formula: 'sum(base)', format: '#,##0.00', caption: 'Sales' },
      ],
    })
    const goods = await rows(
      `select coalesce(c.name, 'Other goods') as name, sum(${base} - round(l.quantity * t.cost, 2))::text as profit ${from} group by 1`,
    )
    const [whole] = await rows(`select sum(${base})::text as sold, sum(round(l.quantity * t.cost, 2))::text as bought ${from}`)
    expect(labels[0]).toBe(`Cost · ${printed(whole!.bought!, '#,##0.00')}`)
    expect(labels.at(-1)).toBe(`Sales · ${printed(whole!.sold!, '#,##0.00')}`)
    expect(new Set(labels.slice(1, -1))).toEqual(new Set(goods.map(each => `${each.name} · ${printed(each.profit!, '#,##0.00')}`)))
    expect(cells.map(cell => cell.split(' ')[0])).toEqual(['bought', ...goods.map(() => 'mark'), 'sold'])
    expect(notices).toEqual([])
  })

  it('are refused where no sum leads there', async () => {
    const { told, notices } = await drawn({ form: 'steps', measures: measure('median(base)', '#,##0.00') })
    expect(told).toContain('bars side by side')
    expect(notices).toEqual([expect.stringContaining('so that no steps lead to it; it is drawn as bars.')])
  })

  it('of a statement go from column to column by its lines, in its scale', async () => {
    for (const scale of ['units', 'thousands'] as const) {
      const own = statement('budget')
      const block = own.layouts[0]!.blocks.find(each => each.kind === 'statement')!
      const lines = block.kind === 'statement' ? block.lines.filter(line => line.kind === 'accounts').slice(0, 4) : []
      const columns =
        block.kind === 'statement' ? block.columns.filter(column => ['activity', 'budget'].includes(column.kind)).slice(0, 2) : []
      const chart: ChartBlock = {
        kind: 'chart',
        id: 'way',
        statement: block.id,
        left: 0,
        width: 0,
        height: 200,
        after: 0,
        form: 'steps',
        series: lines.map(line => ({ line: line.id })),
        columns: columns.map(column => column.id),
        legend: false,
        figures: true,
      }
      const scaled = changeBlock(own, block.id, each => (each.kind === 'statement' ? { ...each, scale } : each))
      const report = { ...scaled, layouts: scaled.layouts.map(layout => ({ ...layout, blocks: [...layout.blocks, chart] })) }
      const { labels, notices } = await drawn({}, report, 'way', { period: '2026-P07' })
      expect(notices).toEqual([])
      // a statement prints zero as a dash
      const figureOf = (text: string) => (text === '–' ? 0 : Number(text.replace('(', '-').replace(/[,)]/g, '').replace('−', '-')))
      const figures = labels.map(label => figureOf(label.split(' · ').at(-1)!))
      expect(figures).toHaveLength(lines.length + 2)
      const moved = figures.slice(0, -1).reduce((sum, each) => sum + each, 0)
      // each figure is printed by itself: they differ by their last digit at most
      expect(Math.abs(moved - figures.at(-1)!)).toBeLessThanOrEqual(figures.length * 0.5)
      expect(Math.abs(figures[0]!)).toBeGreaterThan(10)
    }
  })
})

describe('an axis', () => {
  it('tells what it cannot show: figures beyond its ends, and zero on one by powers of ten', async () => {
    const beyond = await drawn({ form: 'bars', axis: { to: 1000 } })
    expect(beyond.notices).toEqual(['Some figures lie beyond the ends of the axis, and are drawn up to them.'])
    const log = await drawn({ form: 'bars', axis: { log: true }, measures: measure('sum(base) - 200000') })
    expect(log.notices).toEqual(['An axis by powers of ten has no place for zero and below; the axis is an even one.'])
  })
  it('has marks that differ, however small its figures, and a target printed as it is', async () => {
    const report = changeChart(salesCharts(yearSteps), 'goods', own => ({
      ...own,
      form: 'bars',
      measures: measure('sum(base) / 1000000000', '0.00000000'),
      target: { formula: 'sum(base) / 10000000000', caption: 'Goal' },
    }))
    const { pages } = await composeReport(db, catalog, report, answers)
    const texts = pages[0]!.items.flatMap(item => (item.kind === 'text' ? [item.text] : []))
    const small = texts.filter(text => /^0\.00\d+$/.test(text))
    expect(small.length).toBeGreaterThan(3)
    expect(new Set(small).size).toBe(small.length)
    expect(texts.some(text => text.startsWith('Goal '))).toBe(true)
  })
})

describe('what a chart is of', () => {
  it('a crosstab: its groups and figures, whatever its totals are', async () => {
    const grid = salesGrid()
    const chart: ChartBlock = {
      kind: 'chart',
      id: 'drawing',
      of: 'grid',
      left: 0,
      width: 0,
      height: 200,
      after: 0,
      form: 'stacked',
      series: [],
      legend: true,
      figures: false,
    }
    const report = { ...grid, layouts: grid.layouts.map(layout => ({ ...layout, blocks: [...layout.blocks, chart] })) }
    expect(report.layouts[0]!.blocks.filter(isChart)).toHaveLength(1)
    const { labels } = await drawn({}, report, 'drawing', { dates: '2026-04-01..2026-04-30' })
    const found = await rows(
      `select coalesce(r.name, 'Elsewhere') as region, coalesce(s.name, 'Nobody') as seller, coalesce(c.name, 'Other goods') as category,
         sum(${base})::text as sales
       from invoice_lines l join invoices i on i.id = l.invoice_id join items t on t.id = l.item_id
       left join item_categories c on c.id = t.category_id left join salespeople s on s.id = i.salesperson_id
       join customers b on b.id = i.customer_id left join towns n on n.id = b.town_id left join regions r on r.id = n.region_id
       where l.kind = 'item' and i.invoice_date between '2026-04-01' and '2026-04-30' group by 1, 2, 3`,
    )
    expect(new Set(labels)).toEqual(
      new Set(found.map(each => `${each.region} · ${each.seller} · ${each.category} · ${printed(each.sales!)}`)),
    )
  })
})
