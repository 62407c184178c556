import type { PGlite } from '@electric-sql/pglite'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../core/books/catalog'
import { parseDecimal } from '../../core/value/decimal'
import { numberFormat } from '../../core/value/numberFormat'
import { setTotal } from '../../core/definition/edits/edits'
import { cellsOf, composeReport, runReport } from '../../tests/pages'
import { demoDatabase } from '../../tests/support'
import { notBilled, openOrderLines, priceComparison, purchaseOrder, reorderList, requestsList, spendBySupplier } from './buying'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const rows = async <T = Record<string, string | null>>(text: string) => (await db.query<T>(text)).rows
const amount = (value: unknown, pattern = '#,##0.00') =>
  value === null ? '' : numberFormat(pattern, 'en-GB')(parseDecimal(String(value))!)
const day = (value: unknown, format: Intl.DateTimeFormatOptions = { day: 'numeric', month: 'short', year: 'numeric' }) =>
  value === null
    ? ''
    : new Intl.DateTimeFormat('en-GB', { ...format, timeZone: 'UTC' }).format(new Date(`${String(value)}T00:00:00Z`)).replace('Sept', 'Sep')

/** What a buyer would work out with a pencil: per item and store, with the preferred valid supplier or the cheapest. */
const needs = (asOf: string) => `
  offers as (select distinct on (item_id) * from item_suppliers where valid_from <= '${asOf}' and (valid_to is null or valid_to >=
  '${asOf}') order by item_id, is_preferred desc, base_price, supplier_id),
  coming as (select l.item_id, o.warehouse_id, sum(l.quantity - l.received) as quantity from purchase_order_lines l join
  purchase_orders o on o.id = l.order_id where not l.is_closed and l.received < l.quantity group by 1, 2),
  stock as (select s.*, s.on_hand - s.reserved + coalesce(c.quantity, 0) as available, coalesce(c.quantity, 0) as coming from
  stock_levels s left join coming c using (item_id, warehouse_id)),
  needs as (select s.*, o.supplier_id, o.base_price, o.lead_days, o.supplier_item_number, o.pack_size, case when o.item_id is null
  then order_up_to - available else ceil(greatest(order_up_to - available, o.minimum_quantity) / o.pack_size) * o.pack_size end as suggested
    from stock s left join offers o using (item_id) where available < reorder_point)`

describe('the reorder list', () => {
  it.each(['2026-10-31', '2025-11-30'])('on %s asks for what SQL asks for: how much, of whom, at what cost, for when', async asOf => {
    const pages = await runReport(db, catalog, reorderList(), { asOf })
    const found = await rows(`with ${needs(asOf)} select i.code, w.code as store, n.on_hand, n.reserved, n.coming, n.available, n.suggested,
        round(n.suggested * n.base_price, 2)::text as cost, ('${asOf}'::date + n.lead_days)::text as needed,
        coalesce(s.name, 'No supplier') as supplier
      from needs n join items i on i.id = n.item_id join warehouses w on w.id = n.warehouse_id left join suppliers s on s.id =
      n.supplier_id order by s.name collate "und-x-icu" nulls last, s.id, i.code, w.code`)
    expect(found.length).toBeGreaterThan(100)
    expect(found.some(row => row.supplier === 'No supplier')).toBe(true)
    expect(cellsOf(pages, 'reorder', 'line', 'code')).toEqual(found.map(row => row.code))
    expect(cellsOf(pages, 'reorder', 'line', 'warehouse')).toEqual(found.map(row => row.store))
    for (const [cell, column] of [
      ['hand', 'on_hand'],
      ['reserved', 'reserved'],
      ['coming', 'coming'],
      ['available', 'available'],
      ['suggested', 'suggested'],
    ])
      expect(cellsOf(pages, 'reorder', 'line', cell!), cell).toEqual(found.map(row => amount(row[column!], '#,##0.#')))
    expect(cellsOf(pages, 'reorder', 'line', 'cost')).toEqual(found.map(row => amount(row.cost)))
    expect(cellsOf(pages, 'reorder', 'line', 'needed')).toEqual(found.map(row => day(row.needed, { day: 'numeric', month: 'short' })))
    const [total] = await rows(`with ${needs(asOf)} select sum(round(suggested * base_price, 2))::text as cost from needs`)
    expect(cellsOf(pages, 'reorder', 'end', 'cost')).toEqual([amount(total!.cost)])
    const summed = setTotal(reorderList(), 'reorder', 'suggested', { kind: 'end' }, '{{ sum(suggested) | #,##0.# }}')
    const [ordered] = await rows(`with ${needs(asOf)} select sum(suggested)::text as value from needs`)
    expect(cellsOf(await runReport(db, catalog, summed, { asOf }), 'reorder', 'end', 'suggested')).toEqual([
      amount(ordered!.value, '#,##0.#'),
    ])
    expect(cellsOf(pages, 'reorder', 'groupStart_supplier', 'code').at(-1)).toMatch(/^No supplier/)
  })
  it('asks by whole packs and never less than the minimum', async () => {
    expect(
      await rows(
        `with ${needs('2026-10-31')} select item_id from needs n join item_suppliers o using (item_id, supplier_id) where
          n.suggested < o.minimum_quantity and o.valid_to is null or mod(n.suggested, n.pack_size) <> 0`,
      ),
    ).toEqual([])
  })
  it('by buyer holds the same lines', async () => {
    const pages = await runReport(db, catalog, reorderList(), {}, 'By buyer')
    const found = await rows(
      `with ${needs('2026-10-31')} select b.name, sum(round(suggested * base_price, 2))::text as cost from needs n join suppliers s
        on s.id = n.supplier_id join buyers b on b.id = s.buyer_id group by b.id, b.name order by b.name collate "und-x-icu"`,
    )
    expect(cellsOf(pages, 'buyers', 'groupEnd_buyer', 'cost').slice(0, found.length)).toEqual(found.map(row => amount(row.cost)))
  })
})

it('open order lines come by the month in which they are expected, with the days they are late', async () => {
  const { pages, notices } = await composeReport(db, catalog, openOrderLines(), { asOf: '2026-10-31' })
  const found = await rows(`select o.number, l.expected_on::text as expected, greatest('2026-10-31' - l.expected_on, 0)::text as late,
      round((l.quantity - l.received) * l.unit_price * (select rate from exchange_rates e where e.currency_code = o.currency_code
      and e.rate_date <= '2026-10-31' order by e.rate_date desc limit 1), 2)::text as value
    from purchase_order_lines l join purchase_orders o on o.id = l.order_id where not l.is_closed and l.received < l.quantity order
    by l.expected_on, o.number, l.line_no`)
  expect(found.length).toBeGreaterThan(50)
  expect(cellsOf(pages, 'lines', 'line', 'order')).toEqual(found.map(row => row.number))
  expect(cellsOf(pages, 'lines', 'line', 'expected')).toEqual(found.map(row => day(row.expected)))
  expect(cellsOf(pages, 'lines', 'line', 'late')).toEqual(found.map(row => (row.late === '0' ? '' : row.late)))
  expect(cellsOf(pages, 'lines', 'line', 'value')).toEqual(found.map(row => amount(row.value)))
  expect(notices).toEqual([])
  const late = await runReport(db, catalog, openOrderLines(), { asOf: '2026-10-31', lateOnly: 'yes' })
  expect(cellsOf(late, 'lines', 'line', 'order')).toHaveLength(found.filter(row => row.late !== '0').length)
})

it.each(['2026-10-31', '2025-12-31'])('goods received and not billed on %s are those of SQL and tie to their account', async asOf => {
  const pages = await runReport(db, catalog, notBilled(), { asOf })
  const found = await rows(`select r.number, l.base_amount::text as amount from goods_receipt_lines l join goods_receipts r on r.id =
      l.receipt_id join suppliers s on s.id = r.supplier_id
    where r.receipt_date <= '${asOf}' and not exists (select 1 from supplier_bill_lines b join supplier_bills v on v.id = b.bill_id
    where b.receipt_id = l.receipt_id and b.receipt_line_no = l.line_no and v.bill_date <= '${asOf}') order by s.name collate
    "und-x-icu", s.id, r.receipt_date, r.id, l.line_no`)
  expect(found.length).toBeGreaterThan(20)
  expect(cellsOf(pages, 'waiting', 'line', 'number')).toEqual(found.map(row => row.number))
  expect(cellsOf(pages, 'waiting', 'line', 'amount')).toEqual(found.map(row => amount(row.amount)))
  const [ledger] = await rows(
    `select sum(l.credit - l.debit)::text as balance from journal_lines l join journals j on j.id = l.journal_id where
      l.account_code = '2150' and j.posting_date <= '${asOf}'`,
  )
  expect(cellsOf(pages, 'waiting', 'end', 'amount')).toEqual([amount(ledger!.balance)])
  expect(cellsOf(pages, 'waiting', 'control', 'amount')).toEqual([amount(ledger!.balance)])
})

it('requests to buy name who decides, with their lines', async () => {
  const pages = await runReport(db, catalog, requestsList(), { status: 'waiting,approved', dates: '2026-09-01..2026-10-31' })
  const found = await rows(
    "select r.number, coalesce(b.name, 'not named yet') as approver, (select sum(l.amount) from purchase_request_lines l where " +
      'l.request_id = r.id)::text as amount, (select count(*) from purchase_request_lines l where l.request_id = r.id)::int as n from ' +
      "purchase_requests r left join buyers b on b.id = r.approver_id where r.status in ('waiting', 'approved') and r.requested_on " +
      "between '2026-09-01' and '2026-10-31' order by r.status desc, r.requested_on, r.number",
  )
  expect(found.some(row => row.approver === 'not named yet')).toBe(true)
  expect(cellsOf(pages, 'requests', 'line', 'number')).toEqual(found.map(row => row.number))
  expect(cellsOf(pages, 'requests', 'line', 'approver')).toEqual(found.map(row => row.approver))
  expect(cellsOf(pages, 'requests', 'line', 'amount')).toEqual(found.map(row => amount(row.amount)))
  expect(cellsOf(pages, 'requestLines', 'line', 'item')).toHaveLength(found.reduce((sum, row) => sum + Number(row.n), 0))
})

it('a purchase order names items by the supplier’s numbers and adds up to its total', async () => {
  const pages = await runReport(db, catalog, purchaseOrder(), { dates: '2026-10-01..2026-10-31' })
  const lines = await rows(
    'select l.supplier_item_number as theirs, l.amount::text from purchase_order_lines l join purchase_orders o on o.id = ' +
      "l.order_id where o.order_date between '2026-10-01' and '2026-10-31' order by o.number, l.line_no",
  )
  const orders = await rows(
    "select number, total::text from purchase_orders where order_date between '2026-10-01' and '2026-10-31' order by number",
  )
  expect(orders.length).toBeGreaterThan(5)
  expect(cellsOf(pages, 'lines', 'line', 'theirs')).toEqual(lines.map(row => row.theirs))
  expect(cellsOf(pages, 'lines', 'line', 'amount')).toEqual(lines.map(row => amount(row.amount)))
  expect(cellsOf(pages, 'lines', 'end', 'amount')).toEqual(orders.map(row => amount(row.total)))
  const one = await runReport(db, catalog, purchaseOrder(), { dates: '2026-10-01..2026-10-31', number: orders[1]!.number! })
  expect(cellsOf(one, 'lines', 'end', 'amount')).toEqual([amount(orders[1]!.total)])
})

it('prices of suppliers: the best of each item is marked, the others say how much dearer they are', async () => {
  const pages = await runReport(db, catalog, priceComparison(), { asOf: '2026-10-31', category: '9' })
  const found = await rows(
    'select o.supplier_item_number as theirs, o.base_price::text as price, (o.base_price / min(o.base_price) over (partition by ' +
      'o.item_id) - 1)::text as above from item_suppliers o join items i on i.id = o.item_id where i.category_id = 9 and o.valid_from <= ' +
      "'2026-10-31' and (o.valid_to is null or o.valid_to >= '2026-10-31') order by i.code, o.base_price, o.supplier_id",
  )
  expect(found.length).toBeGreaterThan(40)
  expect(cellsOf(pages, 'prices', 'line', 'number')).toEqual(found.map(row => row.theirs))
  expect(cellsOf(pages, 'prices', 'line', 'more')).toEqual(found.map(row => (Number(row.above) === 0 ? '' : amount(row.above, '+0.0 %'))))
  expect(cellsOf(pages, 'prices', 'line', 'base')).toEqual(found.map(row => `${Number(row.above) === 0 ? '▸ ' : ''}${amount(row.price)}`))
})

it('spend by supplier: the first ten, all others, and both together', async () => {
  const pages = await runReport(db, catalog, spendBySupplier(), { dates: '2025-11-01..2026-10-31' })
  const found = await rows(
    "select s.id, sum(round(b.lines_total * b.rate, 2))::text as spend, count(*) filter (where b.kind = 'bill')::text as n from " +
      "supplier_bills b join suppliers s on s.id = b.supplier_id where b.bill_date between '2025-11-01' and '2026-10-31' group by s.id " +
      'order by sum(round(b.lines_total * b.rate, 2)) desc, s.id',
  )
  const cents = (list: typeof found) => list.reduce((sum, row) => sum + Math.round(Number(row.spend) * 100), 0) / 100
  expect(cellsOf(pages, 'spend', 'suppliers', 'spend')).toEqual([
    ...found.slice(0, 10).map(row => amount(row.spend)),
    amount(cents(found.slice(10))),
  ])
  expect(cellsOf(pages, 'spend', 'suppliers', 'count').slice(0, 10)).toEqual(found.slice(0, 10).map(row => row.n))
  expect(cellsOf(pages, 'spend', 'end', 'spend')).toEqual([amount(cents(found))])
})
