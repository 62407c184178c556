import { beforeAll, describe, expect, it } from 'vitest'
import type { PGlite } from '@electric-sql/pglite'
import type { Catalog } from '../../core/books/catalog'
import { numberFormat } from '../../core/value/numberFormat'
import { parseDecimal } from '../../core/value/decimal'
import { demoDatabase } from '../../tests/support'
import { setField } from '../../core/definition/edits/levels'
import { setTotal } from '../../core/definition/edits/edits'
import { cellsOf, composeReport, runReport } from '../../tests/pages'
import { priceList, salespersonSheets, topCustomers } from './lists'
import { invoiceRegister, twoLayouts } from './reports'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const rows = async <T = Record<string, string>>(text: string) => (await db.query<T>(text)).rows
/** As an English page prints an amount. */
const amount = (value: unknown, pattern = '#,##0.00') => numberFormat(pattern, 'en-GB')(parseDecimal(String(value))!)

describe('the top ten customers', () => {
  const between = "invoice_date between '2026-04-01' and '2026-09-30'"
  it('are those of SQL, with all others as one group and the sum of both as the total', async () => {
    const pages = await runReport(db, catalog, topCustomers(), { dates: '2026-04-01..2026-09-30' })
    const all = await rows(
      `select c.name, c.code, count(*)::text as n, sum(i.base_total)::text as sales, max(i.base_total)::text as largest from
        invoices i join customers c on c.id = i.customer_id where ${between} group by c.id, c.name, c.code order by
        sum(i.base_total) desc, c.id`,
    )
    expect(all.length).toBeGreaterThan(20)
    expect(cellsOf(pages, 'customers', 'buyers', 'sales').slice(0, 10)).toEqual(all.slice(0, 10).map(row => amount(row.sales)))
    expect(cellsOf(pages, 'customers', 'buyers', 'customer').slice(0, 10)).toEqual(
      all.slice(0, 10).map(row => (all.filter(other => other.name === row.name).length > 1 ? `${row.name} (${row.code})` : row.name)),
    )
    expect(cellsOf(pages, 'customers', 'buyers', 'count').slice(0, 10)).toEqual(all.slice(0, 10).map(row => row.n))
    const [rest] = await rows(
      `with ranked as (select customer_id, sum(base_total) as sales, count(*) as n, max(base_total) as largest, row_number() over
        (order by sum(base_total) desc, customer_id) as place from invoices where ${between} group by customer_id) select
        sum(sales)::text as sales, sum(n)::text as n, max(largest)::text as largest from ranked where place > 10`,
    )
    expect(cellsOf(pages, 'customers', 'buyers', 'customer')[10]).toBe('All others')
    expect([
      cellsOf(pages, 'customers', 'buyers', 'sales')[10],
      cellsOf(pages, 'customers', 'buyers', 'count')[10],
      cellsOf(pages, 'customers', 'buyers', 'largest')[10],
    ]).toEqual([amount(rest!.sales), rest!.n, amount(rest!.largest)])
    const [total] = await rows(`select sum(base_total)::text as sales from invoices where ${between}`)
    expect(cellsOf(pages, 'customers', 'end', 'sales')).toEqual([amount(total!.sales)])
    // shares and the running share, as a database divides
    const shares = await rows(
      `with sold as (select sum(base_total) as sales from invoices where ${between} group by customer_id order by 1 desc limit 10)
        select (sales / (select sum(base_total) from invoices where ${between}))::text as share, (sum(sales) over (order by sales
        desc) / (select sum(base_total) from invoices where ${between}))::text as so_far from sold order by sales desc`,
    )
    expect(cellsOf(pages, 'customers', 'buyers', 'share').slice(0, 10)).toEqual(shares.map(row => amount(row.share, '0.0 %')))
    expect(cellsOf(pages, 'customers', 'buyers', 'running').slice(0, 10)).toEqual(shares.map(row => amount(row.so_far, '0.0 %')))
  })
})

it('the invoice register has a subtotal for each branch and each salesperson in it, and they are those of SQL', async () => {
  const pages = await runReport(db, catalog, invoiceRegister(), { period: '2026-P04' })
  const open =
    "(i.total - coalesce((select sum(a.amount) from applications a where a.invoice_id = i.id and a.applied_on <= '2026-07-31'), 0) " +
    "+ coalesce((select sum(a.amount) from applications a where a.credit_note_id = i.id and a.applied_on <= '2026-07-31'), 0))"
  const from =
    'from invoices i join branches b on b.id = i.branch_id left join salespeople s on s.id = i.salesperson_id where i.invoice_date ' +
    "between '2026-07-01' and '2026-07-31'"
  const branches = await rows(
    `select b.name, count(*)::text as n, sum(round(${open} * i.rate, 2))::text as base ${from} group by b.id, b.name order by b.name`,
  )
  const people = await rows(
    `select b.name as branch, s.name, sum(round(${open} * i.rate, 2))::text as base ${from} group by b.id, b.name, s.id, s.name
      order by b.name, s.name collate "und-x-icu"`,
  )
  expect(cellsOf(pages, 'register', 'groupEnd_branch', 'base')).toEqual(branches.map(row => amount(row.base)))
  expect(cellsOf(pages, 'register', 'groupEnd_branch', 'total')).toEqual(branches.map(row => `${row.n} documents`))
  expect(cellsOf(pages, 'register', 'groupEnd_salesperson', 'base')).toEqual(people.map(row => amount(row.base)))
  expect(cellsOf(pages, 'register', 'groupStart_salesperson', 'number').filter(name => !name.includes('(continued)'))).toEqual(
    people.map(row => row.name),
  )
})

it('amounts of several currencies are never added up: the total is told, and with its currency known prints a line for each', async () => {
  const mixed = setTotal(invoiceRegister(), 'register', 'total', { kind: 'end' }, '{{ sum(total) }}')
  const told = await composeReport(db, catalog, mixed, { period: '2026-P04' })
  const notice = told.notices.find(each => each.kind === 'currencies' && each.row === 'end')!
  expect(notice.sentence).toBe('The total of “Total” adds up amounts of 3 currencies.')
  const remedy = notice.remedies.find(each => each.label === 'One line per currency')!
  const mended = await composeReport(db, catalog, setField(mixed, ...(remedy.args as [string, { currency: string }])), {
    period: '2026-P04',
  })
  const sums = await rows(
    "select currency_code::text as code, sum(total)::text as total from invoices where invoice_date between '2026-07-01' and " +
      "'2026-07-31' group by currency_code order by currency_code",
  )
  expect(cellsOf(mended.pages, 'register', 'end', 'total').join(' ')).toBe(sums.map(row => `${amount(row.total)} ${row.code}`).join(' '))
  expect(mended.notices.filter(each => each.kind === 'currencies')).toEqual([])
})

it('the salesperson sheets hold each salesperson’s customers with their documents', async () => {
  const pages = await runReport(db, catalog, salespersonSheets(), { dates: '2026-08-01..2026-09-30' })
  const condition = "i.invoice_date between '2026-08-01' and '2026-09-30'"
  const people = await rows(
    `select s.id::text, s.name, count(distinct c.id)::text as customers, count(*)::text as documents, sum(i.base_total)::text as
      sales from salespeople s join customers c on c.salesperson_id = s.id join invoices i on i.customer_id = c.id where
      ${condition} group by s.id, s.name order by s.name collate "und-x-icu"`,
  )
  expect(people.length).toBeGreaterThan(3)
  const shown = pages.flatMap(page => page.label ?? [])
  expect(shown.filter(name => people.some(person => person.name === name))).toEqual(people.map(person => person.name))
  for (const person of people) {
    const own = pages.filter((_, index) => pages.slice(0, index + 1).findLast(page => page.label)?.label === person.name)
    const customers = await rows(
      `select c.code, c.name, count(*)::text as n, sum(i.base_total)::text as sales from customers c join invoices i on
        i.customer_id = c.id where c.salesperson_id = ${person.id} and ${condition} group by c.id, c.code, c.name order by c.name
        collate "und-x-icu", c.code`,
    )
    expect(cellsOf(own, 'customers', 'line', 'code')).toEqual(customers.map(row => row.code))
    expect(cellsOf(own, 'customers', 'line', 'sales')).toEqual(customers.map(row => amount(row.sales)))
    expect(cellsOf(own, 'customers', 'line', 'count')).toEqual(customers.map(row => row.n))
    expect(cellsOf(own, 'customers', 'end', 'sales')).toEqual([amount(person.sales)])
    expect(cellsOf(own, 'invoices', 'line', 'base')).toHaveLength(Number(person.documents))
  }
})

it('the price list holds every item under its category, those without one last', async () => {
  const pages = await runReport(db, catalog, priceList(), {})
  const items = await rows(
    'select i.code, i.price::text, c.name as category from items i left join item_categories c on c.id = i.category_id order by ' +
      'c.name collate "und-x-icu" nulls last, i.code',
  )
  expect(cellsOf(pages, 'prices', 'line', 'code')).toEqual(items.map(row => row.code))
  expect(cellsOf(pages, 'prices', 'line', 'price')).toEqual(items.map(row => amount(row.price)))
  const categories = cellsOf(pages, 'prices', 'groupStart_category', 'code').filter(name => !name.includes('(continued)'))
  expect(categories).toEqual([...new Set(items.map(row => row.category ?? '(none)'))])
  expect(pages[0]!.items.some(item => item.kind === 'shapes' && item.shapes.length > 0)).toBe(true)
})

describe('the sales invoice', () => {
  it('has a row of its own for items, services and remarks, and details under items', async () => {
    const pages = await runReport(db, catalog, twoLayouts(), { month: '2026-09' })
    const lines = await rows(
      'select l.kind, l.description, l.amount::text, t.net_weight::text as weight from invoice_lines l join invoices i on i.id = ' +
        "l.invoice_id left join items t on t.id = l.item_id where i.kind = 'invoice' and i.invoice_date between '2026-09-01' and " +
        "'2026-09-30' order by i.number, l.line_no",
    )
    const of = (kind: string) => lines.filter(line => line.kind === kind)
    expect(of('service').length * of('comment').length).toBeGreaterThan(0)
    expect(cellsOf(pages, 'lines', 'itemLine', 'amount')).toEqual(of('item').map(line => amount(line.amount)))
    expect(cellsOf(pages, 'lines', 'serviceLine', 'amount')).toEqual(of('service').map(line => amount(line.amount)))
    expect(cellsOf(pages, 'lines', 'commentLine', 'description').map(squeezed)).toEqual(
      of('comment').map(line => squeezed(line.description!)),
    )
    expect(cellsOf(pages, 'lines', 'details', 'description')).toHaveLength(of('item').filter(line => line.weight !== null).length)
  })
  it('in its compact layout speaks the customer’s language and puts the slip at the foot of the page', async () => {
    const pages = await runReport(db, catalog, twoLayouts(), { month: '2026-09' }, 'Compact')
    const documents = await rows(
      "select i.number, c.language, i.total::text from invoices i join customers c on c.id = i.customer_id where i.kind = 'invoice' " +
        "and i.invoice_date between '2026-09-01' and '2026-09-30' order by i.number",
    )
    const words: Record<string, string> = { en: 'Invoice', pt: 'Fatura', nb: 'Faktura' }
    for (const each of documents) {
      const first = pages.findIndex(found => found.label?.startsWith(each.number!))
      const next = pages.findIndex((found, index) => index > first && found.label !== undefined)
      const texts = pages
        .slice(first, next < 0 ? undefined : next)
        .flatMap(page => page.items)
        .flatMap(item => (item.kind === 'text' ? [item.text] : []))
      expect(texts).toContain(`${words[each.language!]} ${each.number}`)
      expect(texts).toContain(numberFormat('#,##0.00', each.language!)(parseDecimal(each.total!)!))
    }
    const slips = pages.flatMap(page => page.boxes.filter(box => box.block === 'slip' && !box.cell).map(box => box.y + box.height))
    expect(slips).toHaveLength(documents.length)
    expect(new Set(slips.map(Math.round)).size).toBe(1)
  })
})
const squeezed = (value: string) => value.replace(/\s+/g, '')
