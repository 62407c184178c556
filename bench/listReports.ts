import { preparedInside } from '../core/compose/layoutWalk'
import type { PreparedTable } from '../core/compose/prepared'
import { shapedRows } from '../core/compose/table/grouping'
import { isRepeat } from '../core/definition/blocks/block'
import { askCompany, readWhole, sourceSchema } from './support'
import { Composer } from '../core/compose/flow'
import type { Query } from '../core/sql/query'
import type { DataRecords } from '../core/value/records'
import type { ReportDefinition } from '../core/definition/report'
import { pastColumns } from '../core/definition/edits/ageing'
import { customerAgeing } from '../demo/reports/ageing'
import { reorderList } from '../demo/reports/buying'
import { by, level } from '../demo/reports/invoice'
import type { Estante } from '../server/estante'

/** Open items by customer, grouped in the database: one row for each customer with its ages. */
export function ageingByCustomer(): ReportDefinition {
  const report = customerAgeing()
  const items = report.dataSets[0]!.root.details[0]!
  const measures = ['base_open', ...pastColumns.map((_, index) => `age_${index}`)]
  return {
    ...report,
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: {},
        root: level('customer', '@by_customer', { fields: ['code', 'name', ...measures], sort: [by('name')] }),
      },
    ],
    tables: [
      ...report.tables!,
      {
        kind: 'summary',
        name: 'by_customer',
        base: {
          ...items,
          name: 'aged',
          on: [],
          fields: [],
          related: items.related.filter(each => each.name === 'customer' || each.name === 'rate'),
          ageings: items.ageings!.filter(each => each.name === 'age'),
          filters: ['param.unapplied or open > 0'],
          sort: [],
        },
        by: [
          { name: 'name', formula: 'customer.name' },
          { name: 'code', formula: 'customer.code' },
        ],
        measures: measures.map(name => ({ name, formula: `sum(${name})` })),
      },
    ],
    layouts: [{ ...report.layouts[0]!, blocks: [] }],
  }
}

/** A report read whole and its first table put into groups: what is there before a page is composed. */
async function shaped(
  estante: Estante,
  definition: ReportDefinition,
  answers: Record<string, string>,
): Promise<{ data: DataRecords; rows: number }> {
  const { report, data, around } = await readWhole(
    estante,
    definition,
    answers,
    definition.layouts.every(layout => !layout.blocks.length),
  )
  const composer = new Composer(report.layout, around)
  composer.values.use(data)
  for (const block of preparedInside(report.layout.blocks)) {
    if (!('groups' in block)) continue
    const { count } = data.levels[block.level]!
    shapedRows(
      composer,
      block as PreparedTable,
      Int32Array.from({ length: count }, (_, row) => row),
    )
  }
  return { data: data, rows: data.levels.at(-1)!.count }
}

const handwritten = (text: string, columns: Query['columns']): Query => ({ text, values: [], columns })
const words = (names: readonly string[]): Query['columns'] => names.map(path => ({ path, type: 'text' }))
const numbers = (names: readonly string[]): Query['columns'] => names.map(path => ({ path, type: 'number', scale: 2 }))

/** The open items of customers on a day, written by hand. */
function itemsText(day: string): string {
  const s = `"${sourceSchema}".`
  return `with inv as (select invoice_id, sum(amount) as amount, sum(base_amount) as base from ${s}applications where applied_on <=
    '${day}' group by 1),
    crd as (select credit_note_id, sum(amount) as amount, sum(source_base_amount) as base from ${s}applications where applied_on <=
    '${day}' and credit_note_id is not null group by 1),
    rec as (select receipt_id, sum(amount) as amount, sum(source_base_amount) as base from ${s}applications where applied_on <=
    '${day}' and receipt_id is not null group by 1),
    rates as (select distinct on (currency_code) currency_code, rate from ${s}exchange_rates where rate_date <= '${day}' order by
    currency_code, rate_date desc),
    items as (
      select i.kind as what, i.number, i.customer_id, i.invoice_date as dated, coalesce(i.due_date, i.invoice_date + t.days,
      i.invoice_date) as due, i.currency_code, i.total - coalesce(a.amount, 0) + coalesce(c.amount, 0) as open, i.base_total -
      coalesce(a.base, 0) + coalesce(c.base, 0) as booked
      from ${s}invoices i left join inv a on a.invoice_id = i.id left join crd c on c.credit_note_id = i.id left join
      ${s}payment_terms t on t.code = i.payment_term_code where i.invoice_date <= '${day}'
      union all
      select 'receipt', r.number, r.customer_id, r.receipt_date, r.receipt_date, r.currency_code, -r.amount + coalesce(a.amount,
      0), -r.base_amount + coalesce(a.base, 0) from ${s}receipts r left join rec a on a.receipt_id = r.id where r.receipt_date <= '${day}'),
    aged as (select what, number, customer_id, dated, due, items.currency_code, open, booked, '${day}'::date - due as days,
    round(open * rate, 2) as base from items join rates on rates.currency_code = items.currency_code where open <> 0 or booked <> 0)`
}
const spread = (value: (range: string) => string) =>
  ['days <= 0', 'days between 1 and 30', 'days between 31 and 60', 'days between 61 and 90', 'days > 90'].map(value).join(', ')

export interface Compared {
  ours: number[]
  theirs: number[]
  rows: number
  same: boolean
}

/** Runs ours and a statement written by hand in turn. */
async function compared(rounds: number, ours: () => Promise<number>, theirs: () => Promise<number>): Promise<Compared> {
  const found: Compared = { ours: [], theirs: [], rows: 0, same: true }
  for (let round = 0; round <= rounds; round++) {
    let began = performance.now()
    const own = await ours()
    const took = performance.now() - began
    began = performance.now()
    const other = await theirs()
    // the first round warms both up
    if (round) {
      found.ours.push(took)
      found.theirs.push(performance.now() - began)
    }
    found.rows = own
    found.same &&= own === other
  }
  return found
}

export function ageing(estante: Estante, day: string, rounds: number): Promise<Compared> {
  // as the server holds it: one definition, assembled once
  const definition = ageingByCustomer()
  const s = `"${sourceSchema}".`
  const sums = numbers(['open', 'a0', 'a1', 'a2', 'a3', 'a4'])
  const query = handwritten(
    `${itemsText(day)} select c.name, c.code, sum(base), ${spread(range => `sum(base) filter (where ${range})`)} from aged join
      ${s}customers c on c.id = customer_id group by c.id, c.name, c.code order by c.name collate "unicode", c.id`,
    [...words(['name', 'code']), ...sums],
  )
  return compared(
    rounds,
    async () => (await shaped(estante, definition, { asOf: day })).rows,
    async () => (await askCompany(estante, query)).count,
  )
}

/** The schedule's items without the account above them, in groups by customer. */
function scheduleItems(): ReportDefinition {
  const report = customerAgeing()
  const [main] = report.dataSets
  const items = main!.root.details[0]!
  const layout = report.layouts.find(each => each.name === 'Every document')!
  const [block] = layout.blocks
  const table = isRepeat(block) ? block.blocks[0]! : block!
  return {
    ...report,
    dataSets: [
      {
        ...main!,
        root: { ...items, on: [], filters: ['param.unapplied or open > 0'], ageings: items.ageings!.filter(each => each.name === 'age') },
      },
    ],
    layouts: [
      {
        ...layout,
        blocks: [
          table.kind === 'table'
            ? { ...table, rows: table.rows.filter(row => !['leftOut', 'revalued', 'control'].includes(row.id)) }
            : table,
        ],
      },
    ],
  }
}

/** The schedule with each open item, against a statement that returns the same items in the order of their customers. */
export function ageingItems(estante: Estante, day: string, rounds: number): Promise<Compared> {
  const definition = scheduleItems()
  const s = `"${sourceSchema}".`
  const query = handwritten(
    `${itemsText(day)} select what, number, b.name as branch, c.name, c.code, aged.currency_code::text, dated, due, days::numeric,
      open, booked, base, ${spread(range => `case when ${range} then base end`)} from aged join ${s}customers c on c.id =
      customer_id join ${s}branches b on b.id = 1 order by c.name collate "unicode", c.id, dated, number`,
    [
      ...words(['what', 'number', 'branch', 'name', 'code', 'currency']),
      { path: 'date', type: 'date' },
      { path: 'due', type: 'date' },
      { path: 'days', type: 'number', scale: 0 },
      ...numbers(['open', 'booked', 'base', 'a0', 'a1', 'a2', 'a3', 'a4']),
    ],
  )
  return compared(
    rounds,
    async () => (await shaped(estante, definition, { asOf: day })).rows,
    async () => (await askCompany(estante, query)).count,
  )
}

export function reorder(estante: Estante, rounds: number): Promise<Compared> {
  const definition = reorderList()
  const s = `"${sourceSchema}".`
  const query = handwritten(
    `with offers as (select distinct on (item_id) * from ${s}item_suppliers where valid_from <= '2026-10-31' and (valid_to is null
      or valid_to >= '2026-10-31') order by item_id, is_preferred desc, base_price, supplier_id),
    coming as (select l.item_id, o.warehouse_id, sum(l.quantity - l.received) as coming from ${s}purchase_order_lines l join
    ${s}purchase_orders o on o.id = l.order_id where not l.is_closed and l.received < l.quantity group by 1, 2),
    stock as (select s.*, coalesce(c.coming, 0) as coming, s.on_hand - s.reserved + coalesce(c.coming, 0) as available from
    ${s}stock_levels s left join coming c using (item_id, warehouse_id))
    select i.code, i.name, w.code, on_hand, reserved, coming, available, reorder_point, order_up_to, case when o.item_id is null
    then order_up_to - available else ceil(greatest(order_up_to - available, o.minimum_quantity) / o.pack_size) * o.pack_size end,
    o.base_price, v.name, '2026-10-31'::date + o.lead_days
    from stock join ${s}items i on i.id = stock.item_id join ${s}warehouses w on w.id = stock.warehouse_id left join offers o on
    o.item_id = stock.item_id left join ${s}suppliers v on v.id = o.supplier_id where available < reorder_point order by v.name
    collate "unicode" nulls last, i.code, w.code`,
    [
      ...words(['code', 'name', 'store']),
      ...numbers(['on_hand', 'reserved', 'coming', 'available', 'point', 'upTo', 'suggested', 'price']),
      ...words(['supplier']),
      { path: 'needed', type: 'date' },
    ],
  )
  return compared(
    rounds,
    async () => (await shaped(estante, definition, {})).rows,
    async () => (await askCompany(estante, query)).count,
  )
}
