import type { CrosstabBlock } from '../core/definition/blocks/crosstab'
import type { LevelDefinition } from '../core/definition/levels'
import type { Rows } from '../core/sql/query'
import { valueAt } from '../core/value/columns'
import { type Decimal, toNumber } from '../core/value/decimal'
import { openEstante, type Estante } from '../server/estante'
import { group, level, report } from './definitions'
import { company, median, ms, note, scale } from './harness'
import { askCompany, sourceSchema, tester } from './support'

const s = `"${sourceSchema}".`
const joined = (name: string, table: string, from: string, to: string, fields: string[], related: LevelDefinition['related'] = []) => ({
  name,
  table,
  on: [{ from, to }],
  fields,
  related,
})
const grid = (more: Pick<CrosstabBlock, 'rows' | 'columns' | 'measures'>): CrosstabBlock => ({
  kind: 'crosstab',
  id: 'grid',
  level: 'lines',
  left: 0,
  width: 0,
  after: 0,
  wide: 'down',
  repeatTitles: true,
  ...more,
})
const byName = { order: { by: 'name' as const, descending: false } }

/** Journal lines by account, month and branch. */
const posted = report(
  level('lines', 'journal_lines', {
    fields: ['debit', 'credit'],
    filters: ['journal.posting_date >= date(2024, 11, 1)'],
    related: [
      joined('journal', 'journals', 'journal_id', 'id', ['posting_date']),
      joined('branch', 'branches', 'branch_id', 'id', ['name']),
      joined('account', 'accounts', 'account_code', 'code', ['code', 'name']),
    ],
  }),
  grid({
    rows: [group('account', 'account.name', byName)],
    columns: [group('month', 'journal.posting_date', { step: 'month' }), group('branch', 'branch.name', byName)],
    measures: [{ id: 'amount', formula: 'sum(debit - credit)', format: '#,##0' }],
  }),
)
const postedByHand = {
  text: `select l.account_code, a.name, date_trunc('month', j.posting_date)::date, l.branch_id::numeric, b.name, sum(l.debit - l.credit)
    from ${s}journal_lines l join ${s}journals j on j.id = l.journal_id join ${s}accounts a on a.code = l.account_code
    join ${s}branches b on b.id = l.branch_id where j.posting_date >= '2024-11-01' group by 1, 2, 3, 4, 5`,
  values: [],
  columns: [
    { path: 'account', type: 'text' as const },
    { path: 'account_name', type: 'text' as const },
    { path: 'month', type: 'date' as const },
    { path: 'branch', type: 'number' as const, scale: 0 },
    { path: 'branch_name', type: 'text' as const },
    { path: 'amount', type: 'number' as const, scale: 2 },
  ],
}

/** Invoice lines by month and forty items each: how many customers, and the middle amount. */
const sold = report(
  level('lines', 'invoice_lines', {
    fields: ['amount', 'item_id'],
    filters: ['item_id != empty', 'invoice.invoice_date >= date(2024, 11, 1)'],
    related: [joined('invoice', 'invoices', 'invoice_id', 'id', ['invoice_date', 'customer_id'])],
  }),
  grid({
    rows: [group('goods', 'floor(item_id / 40)')],
    columns: [group('month', 'invoice.invoice_date', { step: 'month' })],
    measures: [
      { id: 'customers', formula: 'distinct(invoice.customer_id)' },
      { id: 'middle', formula: 'median(amount)', format: '#,##0.00' },
    ],
  }),
)
const soldByHand = {
  text: `select floor(l.item_id / 40)::numeric, date_trunc('month', v.invoice_date)::date, count(distinct v.customer_id)::numeric,
      percentile_cont(0.5) within group (order by l.amount)::numeric
    from ${s}invoice_lines l join ${s}invoices v on v.id = l.invoice_id 
    where l.item_id is not null and v.invoice_date >= '2024-11-01' group by grouping sets ((1, 2), (1), (2), ())`,
  values: [],
  columns: [
    { path: 'goods', type: 'number' as const, scale: 0 },
    { path: 'month', type: 'date' as const },
    { path: 'customers', type: 'number' as const, scale: 0 },
    { path: 'middle', type: 'number' as const },
  ],
}

const count = async (estante: Estante, table: string) => {
  const { columns } = await askCompany(estante, {
    text: `select count(*)::numeric from ${s}${table}`,
    values: [],
    columns: [{ path: 'n', type: 'number', scale: 0 }],
  })
  return toNumber(valueAt(columns[0]!, 0) as Decimal).toLocaleString('en')
}
const different = (rows: Rows, column: number) =>
  new Set(Array.from({ length: rows.count }, (_, row) => JSON.stringify(valueAt(rows.columns[column]!, row)))).size

/** A crosstab of all journal lines, and one whose margins cannot be added up from its cells, each against a statement by hand. */
export async function crossed(): Promise<void> {
  const estante = await openEstante({ folder: await company(Math.min(scale, 40)) })
  const inputs = await Promise.all([posted, sold].map(definition => estante.input(tester, 'Crosstab', definition, {})))
  const times = { posted: [] as number[], postedHand: [] as number[], sold: [] as number[], soldHand: [] as number[] }
  let [hand, soldHand]: Rows[] = []
  for (let round = 0; round <= 5; round++) {
    const timed = async <T>(list: number[], work: () => Promise<T>): Promise<T> => {
      const began = performance.now()
      const result = await work()
      if (round) list.push(performance.now() - began)
      return result
    }
    hand = await timed(times.postedHand, () => askCompany(estante, postedByHand))
    if (!(await timed(times.posted, () => estante.pool.firstPage(tester, inputs[0]!)))) throw new Error('There is no page.')
    soldHand = await timed(times.soldHand, () => askCompany(estante, soldByHand))
    if (!(await timed(times.sold, () => estante.pool.firstPage(tester, inputs[1]!)))) throw new Error('There is no page.')
  }
  const [ours, byHand, middle, middleByHand] = [times.posted, times.postedHand, times.sold, times.soldHand].map(median) as [
    number,
    number,
    number,
    number,
  ]
  note(
    `crosstab of ${await count(estante, 'journal_lines')} journal lines, ${different(hand!, 0)} accounts × ` +
      `${different(hand!, 2)} months × ${different(hand!, 3)} branches with totals, request to page`,
    `${(ours / byHand).toFixed(2)} × the grouping statement by hand (${ms(ours)}, ${ms(byHand)})`,
    '≤ 1.2 ×',
    ours / byHand <= 1.2,
  )
  note(
    `distinct counts and medians in every margin, ${await count(estante, 'invoice_lines')} lines, ` +
      `${different(soldHand!, 0) - 1} groups × ` +
      `${different(soldHand!, 1) - 1} months, request to page`,
    `${(middle / middleByHand).toFixed(2)} × the statement by hand (${ms(middle)}, ${ms(middleByHand)})`,
    '≤ 1.5 ×',
    middle / middleByHand <= 1.5,
  )
  await estante.close()
}
