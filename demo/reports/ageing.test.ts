import type { PGlite } from '@electric-sql/pglite'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { assembleReport, usedFields } from '../../core/compose/assemble'
import { planDataSet } from '../../core/sql/plan'
import { readRecords } from '../../core/read/read'
import type { DataRecords, LevelRecords } from '../../core/value/records'
import { valueAt } from '../../core/value/columns'
import type { Catalog } from '../../core/books/catalog'
import type { ReportDefinition } from '../../core/definition/report'
import { readAnswers } from '../../core/parameter/answers'
import { dayText } from '../../core/value/date'
import { decimalText, parseDecimal } from '../../core/value/decimal'
import { numberFormat } from '../../core/value/numberFormat'
import { cellsOf, composeReport } from '../../tests/pages'
import { demoDatabase, plainFetch } from '../../tests/support'
import { accountStatement, customerAgeing, paymentsDue, supplierAgeing } from './ageing'
import { clock, firstDay } from '../company/masters'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const rows = async <T = Record<string, string>>(text: string, values: unknown[] = []) => (await db.query<T>(text, values)).rows
const amount = (value: unknown, pattern = '#,##0.00') =>
  value === null ? '' : numberFormat(pattern, 'en-GB')(parseDecimal(String(value))!)

/** Open items of customers written down by hand: each document and receipt with what is open of it on a day, its age and its rate. */
const openCustomers = (day: string) => `
  items as (
    select i.customer_id as party, i.branch_id, i.number, i.currency_code::text as currency, coalesce(i.due_date, i.invoice_date +
    t.days, i.invoice_date) as due, i.invoice_date as dated, i.due_date is null as undated,
      i.total - coalesce((select sum(a.amount) from applications a where a.invoice_id = i.id and a.applied_on <= '${day}'), 0) +
      coalesce((select sum(a.amount) from applications a where a.credit_note_id = i.id and a.applied_on <= '${day}'), 0) as open,
      i.base_total - coalesce((select sum(a.base_amount) from applications a where a.invoice_id = i.id and a.applied_on <=
      '${day}'), 0) + coalesce((select sum(a.source_base_amount) from applications a where a.credit_note_id = i.id and a.applied_on
      <= '${day}'), 0) as booked
    from invoices i left join payment_terms t on t.code = i.payment_term_code where i.invoice_date <= '${day}'
    union all
    select r.customer_id, r.branch_id, r.number, r.currency_code::text, r.receipt_date, r.receipt_date, false, -r.amount +
    coalesce((select sum(a.amount) from applications a where a.receipt_id = r.id and a.applied_on <= '${day}'), 0),
      -r.base_amount + coalesce((select sum(a.source_base_amount) from applications a where a.receipt_id = r.id and a.applied_on <=
      '${day}'), 0)
    from receipts r where r.receipt_date <= '${day}'),
  ${aged(day)}`
const openSuppliers = (day: string) => `
  items as (
    select b.supplier_id as party, b.branch_id, b.number, b.currency_code::text as currency, coalesce(b.due_date, b.bill_date +
    t.days, b.bill_date) as due, b.bill_date as dated, b.due_date is null as undated,
      b.total - coalesce((select sum(a.amount) from payment_applications a where a.bill_id = b.id and a.applied_on <= '${day}'), 0)
      + coalesce((select sum(a.amount) from payment_applications a where a.credit_id = b.id and a.applied_on <= '${day}'), 0) as open,
      b.base_total - coalesce((select sum(a.base_amount) from payment_applications a where a.bill_id = b.id and a.applied_on <=
      '${day}'), 0) + coalesce((select sum(a.source_base_amount) from payment_applications a where a.credit_id = b.id and
      a.applied_on <= '${day}'), 0) as booked
    from supplier_bills b left join payment_terms t on t.code = b.payment_term_code where b.bill_date <= '${day}'
    union all
    select p.supplier_id, p.branch_id, p.number, p.currency_code::text, p.payment_date, p.payment_date, false, -p.amount +
    coalesce((select sum(a.amount) from payment_applications a where a.payment_id = p.id and a.applied_on <= '${day}'), 0),
      -p.base_amount + coalesce((select sum(a.source_base_amount) from payment_applications a where a.payment_id = p.id and
      a.applied_on <= '${day}'), 0)
    from payments p where p.payment_date <= '${day}'),
  ${aged(day)}`
const aged = (day: string) => `aged as (
    select *, '${day}'::date - due as days, round(open * (select rate from exchange_rates e where e.currency_code = currency and
    e.rate_date <= '${day}' order by e.rate_date desc limit 1), 2) as base from items where open <> 0 or booked <> 0)`
const spread = (value: string, days = 'days') =>
  ['<= 0', 'between 1 and 30', 'between 31 and 60', 'between 61 and 90', '> 90']
    .map((range, index) => `coalesce(sum(${value}) filter (where ${days} ${range}), 0)::text as a${index}`)
    .join(', ')
/** Ages print nothing as a dash. */
const age = (value: unknown) => (Number(value) === 0 ? '–' : amount(value))
const ages = ['a0', 'a1', 'a2', 'a3', 'a4']

describe.each([
  ['customers', customerAgeing, openCustomers, 'customers', '1200', 1] as const,
  ['suppliers', supplierAgeing, openSuppliers, 'suppliers', '2100', -1] as const,
])('the ageing of %s', (_, report, open, parties, account, sign) => {
  const party = parties.slice(0, -1)
  it.each(['2026-10-31', '2025-09-14'])(
    'as of %s is that of SQL: by branch and name, across and down, down to the control account',
    async day => {
      const { pages, notices } = await composeReport(db, catalog, report(), { asOf: day })
      const found =
        await rows(`with ${open(day)} select b.name as branch, p.name, p.code, (select count(distinct o.id) from ${parties} o join
          aged a2 on a2.party = o.id and a2.branch_id = b.id where o.name = p.name) as alike, sum(base)::text as total, ${spread('base')}
      from aged a join ${parties} p on p.id = a.party join branches b on b.id = a.branch_id group by b.id, b.name, p.id, p.name,
      p.code order by b.name, p.name collate "und-x-icu", p.id`)
      expect(found.length).toBeGreaterThan(40)
      expect(cellsOf(pages, 'ageing', 'parties', 'party')).toHaveLength(found.length)
      for (const column of ['total', ...ages])
        expect(cellsOf(pages, 'ageing', 'parties', column), column).toEqual(
          found.map(row => (column === 'total' ? amount(row[column]) : age(row[column]))),
        )
      const [all] = await rows(
        `with ${open(day)} select sum(base)::text as total, sum(booked)::text as booked, ${spread('base')}, count(*) filter (where
          undated) as undated, round(sum(base * days) filter (where base > 0) / sum(base) filter (where base > 0)) as average from aged`,
      )
      for (const column of ['total', ...ages]) expect(cellsOf(pages, 'ageing', 'end', column)).toEqual([age(all![column])])
      expect(cellsOf(pages, 'ageing', 'end', 'days')).toEqual([amount(all!.average, '#,##0')])
      expect(cellsOf(pages, 'ageing', 'share', 'a4')).toEqual([
        amount(
          (await rows(`with ${open(day)} select (sum(base) filter (where days > 90) / sum(base))::text as share from aged`))[0]!.share,
          '0.0 %',
        ),
      ])
      const [ledger] = await rows(
        'select sum(debit - credit)::text as balance from journal_lines l join journals j on j.id = l.journal_id where ' +
          'l.account_code = $1 and j.posting_date <= $2',
        [account, day],
      )
      expect(cellsOf(pages, 'ageing', 'control', 'total')).toEqual([amount(Number(ledger!.balance) * sign)])
      expect(Number(all!.booked)).toBe(Number(ledger!.balance) * sign)
      expect(cellsOf(pages, 'ageing', 'revalued', 'total')).toEqual([amount((Number(all!.booked) - Number(all!.total)).toFixed(2))])
      expect(cellsOf(pages, 'ageing', 'leftOut', 'total')).toEqual(['0.00'])
      expect(notices.find(each => each.kind === 'dates')?.sentence).toContain(`${all!.undated} of open items`)
    },
  )
  it('aged by document date, without credits, over a threshold, says what it leaves out', async () => {
    const day = '2026-08-31'
    const { pages } = await composeReport(db, catalog, report(), { asOf: day, by: 'document', unapplied: 'no', threshold: '1000' })
    const found = await rows(
      `with ${open(day)} select sum(base)::text as total, sum(booked) as booked, ${spread('base', `('${day}'::date - dated)`)} from
        aged a join ${parties} p on p.id = a.party join branches b on b.id = a.branch_id where open > 0 group by b.id, b.name,
        p.id, p.name having sum(base) > 1000 order by b.name, p.name collate "und-x-icu", p.id`,
    )
    for (const column of ['total', ...ages])
      expect(cellsOf(pages, 'ageing', 'parties', column)).toEqual(
        found.map(row => (column === 'total' ? amount(row[column]) : age(row[column]))),
      )
    const [all] = await rows(`with ${open(day)} select sum(booked) as booked from aged`)
    expect(cellsOf(pages, 'ageing', 'leftOut', 'total')).toEqual([
      amount((Number(all!.booked) - found.reduce((sum, row) => sum + Number(row.booked), 0)).toFixed(2)),
    ])
  })
  it('crossed by branch and age it has in every cell and margin what SQL gives, and nothing where nothing is', async () => {
    const day = '2026-10-31'
    const { pages } = await composeReport(db, catalog, report(), { asOf: day }, 'Crosstab by age')
    const labels = ['Not due', '1–30', '31–60', '61–90', 'Over 90']
    const at = (...names: string[]) => names.map(name => `/${encodeURIComponent(name)}`).join('')
    const bounds = ['<= 0', '<= 30', '<= 60', '<= 90', '> 90']
    const range = `case ${labels.map((label, index) => `when days ${bounds[index]} then '${label}'`).join(' ')} end`
    const found = await rows(
      `with ${open(day)} select b.name as branch, ${range} as age, sum(base)::text as total, grouping(b.name) as whole,
         grouping(${range}) as over from aged a join branches b on b.id = a.branch_id
       group by grouping sets ((b.name, ${range}), (b.name), (${range}), ())`,
    )
    expect(found.length).toBeGreaterThan(12)
    for (const { branch, age: own, total, whole, over } of found) {
      const row = Number(whole) ? 'total ' : `total ${at(branch!)}`
      const column = `${Number(over) ? 'total ' : `at ${at(own!)}`} open`
      expect([branch, own, ...cellsOf(pages, 'crossed', row, column)]).toEqual([branch, own, amount(total)])
    }
    const [one] = await rows(
      `with ${open(day)} select b.name as branch, p.name, ${range} as age, sum(base)::text as total from aged a
         join ${parties} p on p.id = a.party join branches b on b.id = a.branch_id
       where p.name not in (select name from ${parties} group by name having count(*) > 1)
       group by 1, 2, 3 order by sum(base) desc limit 1`,
    )
    expect(cellsOf(pages, 'crossed', `at ${at(one!.branch!, one!.name!)}`, `at ${at(one!.age!)} open`)).toEqual([amount(one!.total)])
  })
  it('in own currency never adds amounts of two currencies', async () => {
    const { pages, notices } = await composeReport(db, catalog, report(), {}, 'In own currency')
    const found = await rows(
      `with ${open('2026-10-31')} select currency, sum(open)::text as total, ${spread('open')} from aged group by currency order by
        currency`,
    )
    expect(found.map(row => row.currency)).toEqual(['EUR', 'GBP', 'NOK'])
    for (const column of ['total', ...ages])
      expect(cellsOf(pages, 'currencies', 'currencyEnd', column)).toEqual(
        found.map(row => (column === 'total' ? amount(row[column]) : age(row[column]))),
      )
    expect(notices.filter(each => each.kind === 'currencies')).toEqual([])
  })
  it('document by document, the two of one name stay apart', async () => {
    const { pages } = await composeReport(db, catalog, report(), { asOf: '2026-10-31' }, 'Every document')
    const found = await rows(
      `with ${open('2026-10-31')} select a.number, a.base::text as total, a.days from aged a join ${parties} p on p.id = a.party
        order by p.name collate "und-x-icu", p.id, a.dated, a.number`,
    )
    expect(cellsOf(pages, 'detail', 'line', 'party')).toEqual(found.map(row => row.number))
    expect(cellsOf(pages, 'detail', 'line', 'total')).toEqual(found.map(row => amount(row.total)))
    expect(cellsOf(pages, 'detail', 'line', 'days')).toEqual(found.map(row => amount(row.days, '#,##0')))
    const twins = await rows(`select name from ${parties} group by name having count(*) > 1`)
    expect(cellsOf(pages, 'detail', `groupEnd_${party}`, 'party').filter(name => name.includes(twins[0]!.name!))).toHaveLength(2)
  })
})

describe('at any date', () => {
  /** Records of a report as they are read, without a page. */
  async function read(definition: ReportDefinition, answers: Record<string, string>): Promise<{ data: DataRecords; names: string[] }> {
    const report = assembleReport(definition, catalog)
    const { values } = readAnswers(definition.parameters, answers, { today: clock, calendar: catalog.calendar! })
    const { levels } = report.tree
    const plan = planDataSet({
      levels,
      catalog: report.model.catalog,
      tables: report.model.tables,
      schema: 'company',
      used: usedFields(report, true),
      parameterTypes: report.parameterTypes,
      parameters: values,
      today: clock,
    })
    for await (const chunk of readRecords(plan, plainFetch(db), { chunk: 1_000_000 }))
      return { data: chunk.records, names: levels.map(level => level.name) }
    throw new Error('no chunk')
  }
  const cents = (level: LevelRecords, path: string, row: number) => {
    const value = valueAt(level.columns[path]!, row)
    return value === null
      ? 0n
      : BigInt(
          decimalText(value as never).replace(
            /^(-?\d+)\.?(\d*)$/,
            (_, whole: string, part: string) => whole + part.padEnd(2, '0').slice(0, 2),
          ),
        )
  }
  it.each([
    ['customers', customerAgeing],
    ['suppliers', supplierAgeing],
  ] as const)(
    'each open item of %s stands in one column, the columns add up, and the booked amounts are the control account',
    async (_, report) => {
      await fc.assert(
        fc.asyncProperty(fc.integer({ min: firstDay, max: clock }), fc.constantFrom('due', 'document'), async (day, by) => {
          const { data } = await read(report(), { asOf: dayText(day), by })
          const [account, items] = data.levels as [LevelRecords, LevelRecords]
          const sums = { open: 0n, columns: 0n, booked: 0n }
          for (let row = 0; row < items.count; row++) {
            const columns = [0, 1, 2, 3, 4].filter(index => valueAt(items.columns[`age_${index}`]!, row) !== null)
            expect(columns).toHaveLength(1)
            const days = Number(decimalText(valueAt(items.columns.age_days!, row) as never))
            expect(columns[0]).toBe(days <= 0 ? 0 : Math.min(4, Math.ceil(days / 30)))
            sums.open += cents(items, 'base_open', row)
            sums.columns += cents(items, `age_${columns[0]}`, row)
            sums.booked += cents(items, 'booked_open', row)
          }
          expect(sums.columns).toBe(sums.open)
          expect(sums.booked).toBe(cents(account, 'balance', 0))
        }),
        { numRuns: 14 },
      )
    },
  )
})

it('the statement of account runs from the balance brought forward to what is open', async () => {
  const { pages } = await composeReport(db, catalog, accountStatement(), {
    asOf: '2026-09-30',
    since: '2026-07-01',
    customers: 'C-0001,C-0002,C-0009',
  })
  const balance = (where: string) =>
    `(select coalesce((select sum(total) from invoices i where i.customer_id = c.id and invoice_date ${where}), 0) -
      coalesce((select sum(amount) from receipts r where r.customer_id = c.id and receipt_date ${where}), 0))::text`
  const found = await rows(
    `with ${openCustomers('2026-09-30')} select c.code, ${balance("< '2026-07-01'")} as brought, ${balance("<= '2026-09-30'")} as
      closing, ${spread('a.open')}, sum(a.open)::text as open from customers c join aged a on a.party = c.id where c.code in
      ('C-0001', 'C-0002', 'C-0009') group by c.id, c.code, c.name order by c.name collate "und-x-icu", c.id`,
  )
  expect(cellsOf(pages, 'movements', 'broughtRow', 'balance')).toEqual(found.map(row => amount(row.brought)))
  expect(cellsOf(pages, 'movements', 'end', 'balance')).toEqual(found.map(row => amount(row.closing)))
  for (const row of found) expect(row.closing).toBe(row.open)
  const texts = pages.flatMap(page => page.items).flatMap(item => (item.kind === 'text' ? [item.text] : []))
  for (const row of found) for (const column of [...ages, 'open']) expect(texts).toContain(amount(row[column]))
  expect(pages.flatMap(page => page.label ?? []).map(label => label.slice(0, 6))).toEqual(found.map(row => row.code))
})

it('payments due are the open bills until a date, by supplier, where something is left to pay', async () => {
  const { pages } = await composeReport(db, catalog, paymentsDue(), { asOf: '2026-10-31', until: '2026-11-10' })
  const found = await rows(
    `with ${openSuppliers('2026-10-31')}, due as (select *, sum(open) over (partition by party) as sum from aged where due <=
      '2026-11-10') select d.number, d.base::text as base, (d.due - '2026-10-31')::text as days from due d join suppliers s on s.id
      = d.party where d.sum > 0 order by s.name collate "und-x-icu", s.id, d.dated, d.number`,
  )
  expect(found.length).toBeGreaterThan(50)
  expect(cellsOf(pages, 'due', 'line', 'number')).toEqual(found.map(row => row.number))
  expect(cellsOf(pages, 'due', 'line', 'total')).toEqual(found.map(row => amount(row.base)))
  expect(cellsOf(pages, 'due', 'line', 'days')).toEqual(found.map(row => amount(row.days, '#,##0')))
  expect(cellsOf(pages, 'due', 'end', 'total')).toEqual([
    amount(found.reduce((sum, row) => sum + Math.round(Number(row.base) * 100), 0) / 100),
  ])
})
