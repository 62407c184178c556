import type { PGlite } from '@electric-sql/pglite'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../core/books/catalog'
import { parseDecimal } from '../../core/value/decimal'
import { numberFormat } from '../../core/value/numberFormat'
import { group, level, report } from '../../bench/definitions'
import { cellsOf, composeReport, runReport } from '../../tests/pages'
import { demoDatabase } from '../../tests/support'
import type { AxisGroup } from '../../core/definition/blocks/crosstab'
import { changeCrosstab } from '../../core/definition/edits/crosstab'
import { itemProfit, salesCharts, salesGrid, yearSteps } from './grids'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
type Row = Record<string, string | null>
const rows = async (text: string) => (await db.query<Row>(text)).rows
const printed = (value: unknown, pattern = '#,##0') => (value === null ? '' : numberFormat(pattern, 'en-GB')(parseDecimal(String(value))!))
const dates = "i.invoice_date between '2026-04-01' and '2026-09-30'"
const from = `from invoice_lines l join invoices i on i.id = l.invoice_id join items t on t.id = l.item_id
  left join item_categories c on c.id = t.category_id left join salespeople s on s.id = i.salesperson_id
  join customers b on b.id = i.customer_id left join towns n on n.id = b.town_id left join regions r on r.id = n.region_id
  where l.kind = 'item'`
const base = 'round(l.amount * i.rate, 2)'
const profit = `(${base} - round(l.quantity * t.cost, 2))`
const path = (...names: (string | null)[]) => names.map(name => `/${encodeURIComponent(name!)}`).join('')

describe('the sales grid', () => {
  it('has in every cell and every total what SQL gives', async () => {
    const pages = await runReport(db, catalog, salesGrid(), { dates: '2026-04-01..2026-09-30' })
    const found = await rows(
      `select coalesce(r.name, 'Elsewhere') as region, coalesce(s.name, 'Nobody') as seller, coalesce(c.name, 'Other goods') as category,
         grouping(coalesce(r.name, 'Elsewhere'), coalesce(s.name, 'Nobody'), coalesce(c.name, 'Other goods'))::text as level,
         sum(${base})::text as sales ${from} and ${dates}
       group by grouping sets ((1, 2, 3), (1, 2), (1, 3), (1), (3), ())`,
    )
    expect(found.length).toBeGreaterThan(60)
    for (const { region, seller, category, level, sales } of found) {
      const bits = Number(level)
      const row = bits & 4 ? 'total ' : bits & 2 ? `total ${path(region!)}` : `at ${path(region!, seller!)}`
      const column = bits & 1 ? 'total  sales' : `at ${path(category!)} sales`
      expect([row, column, ...cellsOf(pages, 'grid', row, column)]).toEqual([row, column, printed(sales)])
    }
  })
})

describe('an axis of dates', () => {
  it('shows each month of a range, with records or without', async () => {
    const definition = salesGrid()
    const months: AxisGroup = {
      id: 'month',
      by: 'invoice.invoice_date',
      step: 'month',
      order: { by: 'value', descending: false },
      total: 'after',
      every: { from: 'addMonths(param.dates.from, -2)', to: 'addMonths(param.dates.to, 2)' },
    }
    const shown = changeCrosstab(definition, 'grid', block => ({ ...block, rows: [months], columns: [] }))
    const pages = await runReport(db, catalog, shown, { dates: '2026-04-01..2026-05-31' })
    const names = ['February', 'March', 'April', 'May', 'June', 'July'].map(month => `${month} 2026`)
    expect(names.map(month => cellsOf(pages, 'grid', `at ${path(month)}`, 'title month'))).toEqual(names.map(month => [month]))
    const found = await rows(
      `select to_char(i.invoice_date, 'FMMonth YYYY') as month, sum(${base})::text as sales ${from}
        and i.invoice_date between '2026-04-01' and '2026-05-31' group by 1`,
    )
    expect(found.length).toBe(2)
    for (const month of names) {
      const [figure] = cellsOf(pages, 'grid', `at ${path(month)}`, 'at  sales')
      const own = found.find(each => each.month === month)
      expect([month, figure]).toEqual([month, own ? printed(own.sales) : ''])
    }
  })
})

describe('the profit of items', () => {
  it('has the best items with their best customers, all others, and margins worked out anew, as SQL has them', async () => {
    const pages = await runReport(db, catalog, itemProfit(), { dates: '2025-01-01..2026-09-30' })
    const within = "i.invoice_date between '2025-01-01' and '2026-09-30'"
    const items = await rows(
      `select t.id::text as id, t.name, t.code, sum(${profit})::text as earned ${from} and ${within} group by t.id, t.name, t.code
       order by sum(${profit}) desc, t.id`,
    )
    const best = items.slice(0, 12)
    const ids = best.map(each => each.id).join()
    // of two items that share a name each stands with its code
    const label = ({ name, code }: Row) => (items.filter(each => each.name === name).length > 1 ? `${name!} (${code!})` : name!)
    const years = await rows(
      `select case when t.id in (${ids}) then t.id::text else '' end as goods, extract(year from i.invoice_date)::text as year,
         sum(${profit})::text as earned, sum(${base})::text as sold, (sum(${profit}) / sum(${base}))::text as margin
       ${from} and ${within} group by 1, 2`,
    )
    const all = await rows(
      `select extract(year from i.invoice_date)::text as year, sum(${profit})::text as earned,
         (sum(${profit}) / sum(${base}))::text as margin
       ${from} and ${within} group by 1`,
    )
    for (const { year, earned, margin } of all) {
      expect(cellsOf(pages, 'grid', 'total ', `at /${year} earned`)).toEqual([printed(earned)])
      expect(cellsOf(pages, 'grid', 'total ', `at /${year} margin`)).toEqual([printed(margin, '0.0 %')])
    }
    for (const { goods, year, earned, sold, margin } of years) {
      const row = `total ${goods === '' ? '/*' : path(label(best.find(each => each.id === goods)!))}`
      expect([goods, year, ...cellsOf(pages, 'grid', row, `at /${year} earned`)]).toEqual([goods, year, printed(earned)])
      expect(cellsOf(pages, 'grid', row, `at /${year} sold`)).toEqual([printed(sold)])
      expect(cellsOf(pages, 'grid', row, `at /${year} margin`)).toEqual([printed(margin, '0.0 %')])
    }
    // the best customers of the best item
    const [first] = best
    const buyers = await rows(
      `select b.name, sum(${profit})::text as earned ${from} and ${within} and t.id = ${first!.id} group by b.id, b.name
       order by sum(${profit}) desc, b.id limit 3`,
    )
    for (const { name, earned } of buyers)
      expect(cellsOf(pages, 'grid', `at ${path(label(first!), name!)}`, 'total  earned')).toEqual([printed(earned)])
  })
})

describe('the charts of sales', () => {
  it('show at every mark what SQL gives, and what parts of a whole are left is one part', async () => {
    const pages = await runReport(db, catalog, salesCharts(yearSteps), { dates: '2025-01-01..2026-09-30' })
    const boxes = pages.flatMap(page => page.boxes)
    const marks = (block: string, series: number) =>
      new Map(
        boxes.flatMap(box =>
          box.block === block && box.cell?.split(' ')[1] === String(series) ? [[box.label!.split(' · ')[0]!, box.label!]] : [],
        ),
      )
    const both = "i.invoice_date between '2025-01-01' and '2026-09-30'"
    const year = (own: number) => `extract(year from i.invoice_date) = ${own}`
    const byMonth = await rows(
      `select to_char(i.invoice_date, 'Mon') as month, sum(${base}) filter (where ${year(2026)})::text as now,
         sum(${base}) filter (where ${year(2025)})::text as before ${from} and ${both} group by 1`,
    )
    expect(byMonth).toHaveLength(12)
    const [now, before] = [marks('months', 0), marks('months', 1)]
    for (const row of byMonth) {
      expect(now.get(row.month!)).toBe(`${row.month} · 2026 · ${printed(row.now ?? '0')}`)
      expect(before.get(row.month!)).toBe(`${row.month} · 2025 · ${printed(row.before ?? '0')}`)
    }
    const sold = `${from} and ${year(2026)} and i.invoice_date <= '2026-09-30'`
    const goods = await rows(
      `select coalesce(c.name, 'Other goods') as name, sum(${base})::text as sales ${sold} group by 1 order by sum(${base}) desc`,
    )
    const parts = marks('goods', 0)
    expect([...parts.keys()]).toEqual([...goods.slice(0, 6).map(each => each.name), 'All others'])
    for (const { name, sales } of goods.slice(0, 6)) expect(parts.get(name!)).toBe(`${name} · ${printed(sales)}`)
    const rest = goods.slice(6).reduce((sum, each) => sum + Number(each.sales), 0)
    expect(parts.get('All others')).toBe(`All others · ${printed(String(rest.toFixed(2)))}`)
    // falling order, and steps that lead from one year to the other
    const regions = await rows(
      `select coalesce(r.name, 'Elsewhere') as name, sum(${base})::text as sales ${sold} group by 1 order by sum(${base}) desc`,
    )
    expect([...marks('regions', 0).values()]).toEqual(regions.map(({ name, sales }) => `${name} · ${printed(sales)}`))
    const steps = [...marks('steps', 0).values()].map(label => Number(label.split(' · ')[1]!.replaceAll(',', '').replace('−', '-')))
    const [whole] = await rows(
      `select sum(${base}) filter (where ${year(2025)})::text as before, sum(${base}) filter (where ${year(2026)})::text as now
         ${from} and ${both}`,
    )
    expect([steps[0], steps.at(-1)]).toEqual([Math.round(Number(whole!.before)), Math.round(Number(whole!.now))])
    expect(Math.abs(steps.slice(0, -1).reduce((sum, each) => sum + each, 0) - steps.at(-1)!)).toBeLessThan(steps.length)
  })

  it('say in words what they show, for those who do not see them', async () => {
    const pages = await runReport(db, catalog, salesCharts(yearSteps), {})
    const told = pages.flatMap(page => page.boxes).filter(box => box.part === 'block' && box.label)
    expect(told.map(box => box.block)).toEqual(['months', 'goods', 'regions', 'steps'])
    expect(told[2]!.label).toMatch(/^Where it was sold, with the running share, bars in falling order of .* highest .*, lowest .*\.$/)
  })
})

it('a crosstab of lines with a figure of their invoices says how many invoices stand in several of its cells', async () => {
  const lines = level('lines', 'invoice_lines', {
    on: [{ from: 'id', to: 'invoice_id' }],
    related: [
      {
        name: 'item',
        table: 'items',
        on: [{ from: 'item_id', to: 'id' }],
        fields: [],
        related: [{ name: 'category', table: 'item_categories', on: [{ from: 'category_id', to: 'id' }], fields: ['name'], related: [] }],
      },
    ],
  })
  const invoices = level('invoice', 'invoices', {
    fields: ['number', 'freight'],
    filters: ['invoice_date >= date(2026, 9, 1)'],
    details: [lines],
  })
  const own = (formula: string) =>
    report(invoices, {
      kind: 'crosstab',
      id: 'grid',
      level: 'lines',
      left: 0,
      width: 0,
      after: 0,
      rows: [group('category', 'item.category.name')],
      columns: [],
      measures: [{ id: 'figure', formula }],
      wide: 'smaller',
      repeatTitles: true,
    })
  const noticed = async (formula: string) =>
    (await composeReport(db, catalog, own(formula), {})).notices.filter(each => each.kind === 'split').map(each => each.sentence)
  const [{ several }] = (await rows(
    `select count(*)::text as several from (select i.id from invoice_lines l join invoices i on i.id = l.invoice_id
       left join items t on t.id = l.item_id where i.invoice_date >= '2026-09-01'
       group by i.id having count(distinct coalesce(t.category_id, 0)) > 1) as x`,
  )) as [{ several: string }]
  expect(Number(several)).toBeGreaterThan(10)
  expect(await noticed('sum(invoice.freight)')).toEqual([
    `${several} invoice records stand in more than one group, so that the groups’ totals of invoice add up to more than the total of all.`,
  ])
  expect(await noticed('sum(amount)')).toEqual([])
})
