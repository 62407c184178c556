import type { PGlite } from '@electric-sql/pglite'
import { beforeAll, describe, expect, it } from 'vitest'
import { demoDatabase } from '../tests/support'
import { demoRows } from './fill'

let db: PGlite
beforeAll(async () => {
  ({ db } = await demoDatabase())
})
const rows = async <T>(sql: string) => (await db.query<T>(sql)).rows
const number = async (sql: string) => Number((await rows<{ value: string }>(sql))[0]!.value)

describe('the books', () => {
  it('each journal balances, within each branch too', async () => {
    expect(await rows('select journal_id, branch_id from journal_lines group by 1, 2 having sum(debit) <> sum(credit)')).toEqual([])
    expect(await number('select count(*) as value from journals where id not in (select journal_id from journal_lines)')).toBe(0)
  })
  it('open items at any date, unapplied receipts included, at booked rates equal the control account', async () => {
    expect(await rows(`
      select d::date, ledger.balance, items.balance from generate_series('2024-05-01'::date, '2026-10-31'::date, interval '9 days') as d,
      lateral (select coalesce(sum(l.debit - l.credit), 0) as balance from journal_lines l join journals j on j.id = l.journal_id where l.account_code = '1200' and j.posting_date <= d) as ledger,
      lateral (select coalesce((select sum(base_total) from invoices where invoice_date <= d), 0) - coalesce((select sum(base_amount) from receipts where receipt_date <= d), 0)
        + coalesce((select sum(source_base_amount - base_amount) from applications where applied_on <= d), 0) as balance) as items
      where ledger.balance <> items.balance`)).toEqual([])
  })
  it('no document is settled for more than it is, nor before it exists', async () => {
    expect(await rows(`select i.id from invoices i join applications a on a.invoice_id = i.id group by i.id having sum(a.amount) > i.total or min(a.applied_on) < min(i.invoice_date)`)).toEqual([])
    expect(await rows(`select r.id from receipts r join applications a on a.receipt_id = r.id group by r.id having sum(a.amount) > r.amount or sum(a.source_base_amount) > r.base_amount`)).toEqual([])
    expect(await rows(`select i.id from invoices i join applications a on a.credit_note_id = i.id group by i.id having sum(a.amount) > -i.total`)).toEqual([])
    expect(await rows(`select i.id from invoices i join applications a on a.invoice_id = i.id group by i.id having sum(a.amount) = i.total and sum(a.base_amount) <> i.base_total`)).toEqual([])
  })
  it('tax lines equal the tax account', async () => {
    expect(await number('select (select sum(base_currency_amount) from invoice_taxes) - (select sum(credit - debit) from journal_lines where account_code = \'2310\') as value')).toBe(0)
  })
  it('documents add up: lines, freight, discount and tax', async () => {
    expect(await rows('select id from invoices where total <> lines_total + freight - discount + tax_total')).toEqual([])
    expect(await rows('select i.id from invoices i left join invoice_lines l on l.invoice_id = i.id group by i.id having i.lines_total <> coalesce(sum(l.amount), 0)')).toEqual([])
    expect(await rows('select i.id from invoices i left join invoice_taxes t on t.invoice_id = i.id group by i.id having i.tax_total <> coalesce(sum(t.amount), 0) or i.lines_total + i.freight - i.discount <> coalesce(sum(t.base), 0)')).toEqual([])
    expect(await rows('select 1 from invoice_lines where kind <> \'comment\' and amount <> round(quantity * unit_price, 2)')).toEqual([])
    expect(await rows('select 1 from invoice_taxes where amount <> round(base * rate / 100, 2)')).toEqual([])
    expect(await rows(`select 1 from invoice_taxes t join invoices i on i.id = t.invoice_id where t.rate <> (select r.rate from tax_rates r where r.tax_code = t.tax_code and r.valid_from <= i.invoice_date order by r.valid_from desc limit 1)`)).toEqual([])
  })
  it('dates lie in the period they are posted to', async () => {
    expect(await rows('select j.id from journals j join fiscal_periods p on p.fiscal_year_id = j.fiscal_year_id and p.number = j.period_number where j.posting_date not between p.starts_on and p.ends_on')).toEqual([])
  })
})

it('has the size of the company, and the traps of real tables', async () => {
  const count = (table: string, where = 'true') => number(`select count(*) as value from ${table} where ${where}`)
  expect(await count('invoices')).toBeGreaterThanOrEqual(2500)
  expect(await count('invoice_lines')).toBeGreaterThanOrEqual(9000)
  expect([await count('customers'), await count('items')]).toEqual([400, 900])
  expect(await number('select count(*) as value from (select name from customers group by name having count(*) = 2) as twins')).toBeGreaterThan(0)
  expect(await number('select count(*) as value from invoices i where freight > 0 and (select count(*) from invoice_taxes t where t.invoice_id = i.id) = 3')).toBeGreaterThan(0)
  expect(await count('invoices', 'due_date is null')).toBeGreaterThan(0)
  expect(await count('invoices', 'kind = \'credit note\' and total < 0')).toBeGreaterThan(0)
  expect(await count('invoice_lines', 'kind = \'comment\' and item_id is null')).toBeGreaterThan(0)
  expect(await count('items', 'category_id is null')).toBeGreaterThan(0)
  expect(await number('select max(lines) as value from (select count(*) as lines from invoice_lines group by invoice_id) as sizes')).toBe(120)
  expect(await count('journal_lines', 'account_code = \'4900\'')).toBe(1)
  expect(await count('accounts', 'code not in (select account_code from journal_lines)')).toBeGreaterThan(3)
  expect(await count('journals', 'period_number = 13')).toBe(1)
  for (const part of ['Ψ', 'З', '<', '&', '"', '’']) expect(await count('customers', `name like '%${part}%'`), part).toBeGreaterThan(0)
  expect(await count('customers', 'length(name) > 100')).toBeGreaterThan(0)
  // partial, early, late and unapplied payments
  expect(await number('select count(*) as value from invoices i join applications a on a.invoice_id = i.id where a.amount < i.total')).toBeGreaterThan(0)
  expect(await number('select count(*) as value from applications a join invoices i on i.id = a.invoice_id where a.applied_on < i.due_date')).toBeGreaterThan(0)
  expect(await number('select count(*) as value from applications a join invoices i on i.id = a.invoice_id where a.applied_on > i.due_date')).toBeGreaterThan(0)
  expect(await count('receipts', 'id not in (select receipt_id from applications where receipt_id is not null)')).toBeGreaterThan(0)
})

it('is the same every time it is made', async () => {
  const text = async () => (await Promise.all([...demoRows(1).values()].map(table => table.blob().text()))).join('\f')
  expect(await text()).toBe(await text())
})
