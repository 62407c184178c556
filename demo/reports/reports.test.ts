import { beforeAll, describe, expect, it } from 'vitest'
import type { PGlite } from '@electric-sql/pglite'
import type { Catalog } from '../../core/books/catalog'
import { valueAt } from '../../core/value/columns'
import { readDefinition } from '../../core/definition/schema'
import type { ReportDefinition } from '../../core/definition/report'
import { dayText } from '../../core/value/date'
import { decimalText } from '../../core/value/decimal'
import { nestedPlaces } from '../../core/model/nested'
import { composeReport } from '../../tests/pages'
import { nestedOf, pagesOfRun, runOver } from '../../tests/runs'
import { demoDatabase } from '../../tests/support'
import { creditNote, customerMovements, demoReports, flatRegister, invoiceRegister, itemSales } from './reports'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})

async function run(definition: ReportDefinition, answers: Record<string, string>) {
  const { pages, data } = await composeReport(db, catalog, definition, answers)
  const printed = pages.map(page => page.items.flatMap(item => ('text' in item ? [item.text] : [])))
  const column = (level: number, path: string) =>
    Array.from({ length: data.levels[level]!.count }, (_, row) => {
      const value = valueAt(data.levels[level]!.columns[path]!, row)
      return value !== null && typeof value === 'object' ? decimalText(value) : value
    })
  return { column, printed, pages }
}
const rows = async <T = Record<string, string>>(text: string) => (await db.query<T>(text)).rows
const two = (value: unknown) => Number(value).toFixed(2)
/** As the page prints it: with a true minus. */
const english = (value: unknown) =>
  Number(value).toLocaleString('en-GB', { minimumFractionDigits: 2, maximumFractionDigits: 2 }).replace('-', '−')

describe('the invoice register', () => {
  const open =
    "(i.total - coalesce((select sum(a.amount) from applications a where a.invoice_id = i.id and a.applied_on <= '2026-07-31'), 0) " +
    "+ coalesce((select sum(a.amount) from applications a where a.credit_note_id = i.id and a.applied_on <= '2026-07-31'), 0))"
  const from =
    'from invoices i join customers c on c.id = i.customer_id left join towns t on t.id = c.town_id where i.invoice_date between ' +
    "'2026-07-01' and '2026-07-31'"
  it('holds all invoices of a period with their tax and what was open at its end', async () => {
    const { column, printed } = await run(invoiceRegister(), { period: '2026-P04' })
    const expected = await rows(
      `select i.number, i.tax_total::text, ${open}::text as open, round(${open} * i.rate, 2)::text as base ${from} order by
        i.invoice_date, i.number`,
    )
    expect(expected.length).toBeGreaterThan(60)
    expect(column(0, 'number')).toEqual(expected.map(row => row.number))
    expect(column(0, 'tax_total')).toEqual(expected.map(row => row.tax_total))
    expect(column(0, 'open').map(two)).toEqual(expected.map(row => two(row.open)))
    const [{ total }] = (await rows(`select sum(round(${open} * i.rate, 2))::text as total ${from}`)) as [{ total: string }]
    expect(printed.at(-1)!.at(-1) === english(total) || printed.at(-1)!.includes(english(total))).toBe(true)
    expect(printed[0]!.some(text => text.includes('July 2026'))).toBe(true)
  })
  it('is narrowed by region, towns and customers', async () => {
    for (const [answers, condition] of [
      [{ region: '1' }, 't.region_id = 1'],
      [{ town: '1,4' }, 't.id in (1, 4)'],
      [{ region: '1', town: '1', customer: 'C-0001,C-0014' }, "t.region_id = 1 and t.id = 1 and c.code in ('C-0001', 'C-0014')"],
    ] as [Record<string, string>, string][]) {
      expect((await run(invoiceRegister(), { period: '2026-P04', ...answers })).column(0, 'number'), condition).toEqual(
        (await rows(`select i.number ${from} and ${condition} order by i.invoice_date, i.number`)).map(row => row.number),
      )
    }
  })
})

it('credit notes are the credit notes of a month', async () => {
  const { column, printed } = await run(creditNote(), { month: '2026-09' })
  const expected = await rows(
    "select number, total::text from invoices where kind = 'credit note' and invoice_date between '2026-09-01' and '2026-09-30' " +
      'order by number',
  )
  expect(expected.length).toBeGreaterThan(0)
  expect(column(0, 'number')).toEqual(expected.map(row => row.number))
  expect(printed).toHaveLength(expected.length)
  expected.forEach((row, index) => expect(printed[index]).toContain(english(row.total)))
})

it('the statement lines of a customer run on from the balance brought forward to the balance of all', async () => {
  for (const code of ['C-0001', 'C-0004']) {
    const { column, printed } = await run(customerMovements(), { customer: code, dates: '2026-01-01..2026-10-31' })
    const expected = await rows(`with m as (
        select i.kind, i.number, i.invoice_date as day, i.total as amount, c.code from invoices i join customers c on c.id = i.customer_id
        union all select 'receipt', r.number, r.receipt_date, -r.amount, c.code from receipts r join customers c on c.id = r.customer_id)
      select kind, number, day::text, amount::text, sum(amount) over (order by day, number)::text as balance from m where code =
      '${code}' and day <= '2026-10-31' order by m.day, number`)
    const shown = expected.filter(row => row.day! >= '2026-01-01')
    expect(shown.length).toBeGreaterThan(10)
    expect(column(1, 'number')).toEqual(shown.map(row => row.number))
    expect(column(1, 'day').map(day => dayText(day as number))).toEqual(shown.map(row => row.day))
    expect(column(1, 'kind')).toEqual(
      shown.map(row => (row.kind === 'invoice' ? 'Invoice' : row.kind === 'receipt' ? 'Receipt' : 'Credit note')),
    )
    const before = expected.filter(row => row.day! < '2026-01-01').at(-1)?.balance ?? '0'
    expect(two(column(0, 'brought')[0])).toBe(two(before))
    const texts = printed.flat()
    for (const row of shown) expect(texts).toContain(english(row.balance))
  }
})

it('item sales add up in SQL, and the margin of all items is worked out from the totals', async () => {
  const { column, printed } = await run(itemSales(), { dates: '2026-04-01..2026-09-30' })
  const from =
    "from invoice_lines l join invoices i on i.id = l.invoice_id join items t on t.id = l.item_id where l.kind = 'item' and " +
    "i.invoice_date between '2026-04-01' and '2026-09-30'"
  const measures =
    'sum(round(l.amount * i.rate, 2))::text as sales, sum(round(l.amount * i.rate, 2) - round(l.quantity * t.cost, 2))::text as profit'
  const expected = await rows(
    `select t.code, ${measures} ${from} group by t.id, t.code order by sum(round(l.amount * i.rate, 2)) desc, t.code`,
  )
  expect(expected.length).toBeGreaterThan(300)
  expect(column(0, 'code')).toEqual(expected.map(row => row.code))
  expect(column(0, 'sales').map(two)).toEqual(expected.map(row => two(row.sales)))
  expect(column(0, 'margin').map(value => (value === null ? null : Number(value).toFixed(6)))).toEqual(
    expected.map(row => (Number(row.sales) === 0 ? null : ((Number(row.profit) / Number(row.sales)) * 100).toFixed(6))),
  )
  const [all] = await rows(`select ${measures} ${from}`)
  const end = printed.at(-1)!
  expect(end).toContain(english(all!.sales))
  expect(end).toContain(((Number(all!.profit) / Number(all!.sales)) * 100).toFixed(1))
})

it('the register from one flat text is the register', async () => {
  const { column } = await run(flatRegister(), { period: '2026-P04' })
  const expected = await rows(
    "select i.number, i.total::text from invoices i where i.invoice_date between '2026-07-01' and '2026-07-31' and exists (select 1 " +
      'from invoice_lines l where l.invoice_id = i.id) order by i.invoice_date, i.number',
  )
  expect(column(0, 'number')).toEqual(expected.map(row => row.number))
  expect(column(0, 'total')).toEqual(expected.map(row => row.total))
  const plain = await run(invoiceRegister(), { period: '2026-P04' })
  expect(
    column(0, 'total')
      .map(Number)
      .reduce((sum, each) => sum + Math.round(each * 100), 0),
  ).toBe(
    plain
      .column(0, 'total')
      .map(Number)
      .reduce((sum, each) => sum + Math.round(each * 100), 0),
  )
  expect(
    column(1, 'amount')
      .filter(each => each !== null)
      .reduce<number>((sum, each) => sum + Math.round(Number(each) * 100), 0),
  ).toBe(
    Math.round(
      Number(
        (
          await rows(
            'select sum(l.amount)::text as x from invoice_lines l join invoices i on i.id = l.invoice_id where i.invoice_date ' +
              "between '2026-07-01' and '2026-07-31'",
          )
        )[0]!.x,
      ) * 100,
    ),
  )
})

it('each demo report can be stored, and runs with its defaults', async () => {
  for (const { name, definition } of demoReports()) {
    expect(readDefinition(JSON.parse(JSON.stringify(definition))), name).toEqual(definition)
    const { pages } = nestedPlaces(definition).length
      ? await pagesOfRun(db, runOver(catalog, definition, nestedOf(catalog, definition, demoReports())))
      : await run(definition, {})
    expect(pages.length, name).toBeGreaterThan(0)
  }
})
