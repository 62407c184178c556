import type { PGlite } from '@electric-sql/pglite'
import fc from 'fast-check'
import { beforeAll, expect, it } from 'vitest'
import { demoDatabase } from '../../tests/support'
import { DeskError } from './books'
import type { DeskDocument } from '../../core/api/desk'
import { postAtDesk } from './documents'

let db: PGlite
beforeAll(async () => {
  ;({ db } = await demoDatabase())
})
const one = async <T>(text: string, values: unknown[] = []) => (await db.query<T>(text, values)).rows[0]!
const all = async <T>(text: string, values: unknown[] = []) => (await db.query<T>(text, values)).rows
/** As the engine does: all of it, or nothing. */
async function post(document: DeskDocument): Promise<string> {
  await db.exec('begin')
  try {
    const number = await postAtDesk(db, 'company', document)
    await db.exec('commit')
    return number
  } catch (error) {
    await db.exec('rollback')
    throw error
  }
}
const refused = (document: DeskDocument) =>
  post(document).then(
    () => 'posted',
    (error: unknown) => (error instanceof DeskError ? error.message : Promise.reject(error as Error)),
  )

/** What must hold of the books, whatever is posted: SQL by hand, each comes back with no row. */
const rules = {
  'journals balance within each branch': 'select journal_id, branch_id from journal_lines group by 1, 2 having sum(debit) <> sum(credit)',
  'receivables are the open items of each branch': `select * from (select b.id, (select coalesce(sum(debit - credit), 0) from
    journal_lines where account_code = '1200' and branch_id = b.id) as control,
    (select coalesce(sum(base_total), 0) from invoices where branch_id = b.id) - (select coalesce(sum(base_amount), 0) from
    receipts where branch_id = b.id)
    + (select coalesce(sum(a.source_base_amount - a.base_amount), 0) from applications a join invoices i on i.id = a.invoice_id
    where i.branch_id = b.id) as open from branches b) t where control <> open`,
  'payables are what bills come to': `select * from (select (select sum(credit - debit) from journal_lines where account_code =
    '2100') as control,
    (select sum(base_total) from supplier_bills) - (select sum(base_amount) from payments) + (select
    coalesce(sum(source_base_amount - base_amount), 0) from payment_applications) as open) t where control <> open`,
  'sales tax is that of the invoices':
    'select * from (select (select sum(base_currency_amount) from invoice_taxes where invoice_id >= 9000001) as due, (select ' +
    "coalesce(sum(credit - debit), 0) from journal_lines where account_code = '2310' and journal_id >= 9000001) as posted) t where " +
    'coalesce(due, 0) <> posted',
  'stock is what has moved': `select * from (select (select sum(amount) from stock_movements where id >= 9000001) as moved, (select
    sum(debit - credit) from journal_lines where account_code = '1300' and journal_id >= 9000001) as posted) t where
    coalesce(moved, 0) <> coalesce(posted, 0)`,
  'stock levels are the sum of movements':
    'select l.item_id from stock_levels l join (select item_id, warehouse_id, sum(quantity) as moved from stock_movements group by ' +
    '1, 2) m using (item_id, warehouse_id) where l.on_hand <> m.moved',
  'documents add up': `select number from invoices i where total <> lines_total + freight - discount + tax_total or lines_total <>
    (select coalesce(sum(amount), 0) from invoice_lines l where l.invoice_id = i.id) or tax_total <> (select coalesce(sum(amount),
    0) from invoice_taxes x where x.invoice_id = i.id)`,
  'nothing is paid twice':
    'select i.number from invoices i join applications a on a.invoice_id = i.id group by i.id having sum(a.amount) > i.total',
}
async function broken(): Promise<string[]> {
  const found: string[] = []
  for (const [name, text] of Object.entries(rules)) if ((await all(text)).length) found.push(name)
  return found
}

it('documents at the desk keep every rule of the books', async () => {
  expect(await broken()).toEqual([])
  const customers = await all<{ code: string; currency: string }>(
    'select code, trim(currency_code) as currency from customers order by id limit 40',
  )
  const items = await all<{ code: string }>('select code from items order by id limit 60')
  const suppliers = await all<{ code: string }>('select code from suppliers order by id limit 20')
  const branches = (await all<{ code: string }>('select code from branches order by id')).map(row => row.code)
  const money = fc.integer({ min: 1, max: 900_000 }).map(cents => (cents / 100).toFixed(2))
  const day = fc.integer({ min: 1, max: 31 }).map(number => `2026-10-${String(number).padStart(2, '0')}`)
  const branch = fc.constantFrom(...branches)
  const line = fc.oneof(
    fc.record(
      {
        item: fc.constantFrom(...items.map(each => each.code)),
        quantity: fc.integer({ min: 1, max: 90_000 }).map(thousandths => (thousandths / 1000).toFixed(3)),
        price: fc.option(money, { nil: undefined }),
      },
      { requiredKeys: ['item', 'quantity'] },
    ),
    fc.record({
      account: fc.constantFrom('4210', '4220'),
      description: fc.constant('Splicing on the quay'),
      quantity: fc.constantFrom('1', '2.5', '0.25'),
      price: money,
    }),
  )
  const invoice = fc.record({
    date: day,
    customer: fc.constantFrom(...customers.map(each => each.code)),
    branch,
    lines: fc.array(line, { minLength: 1, maxLength: 4 }),
    freight: fc.option(money, { nil: '' }),
  })
  const bill = fc.record({
    date: day,
    supplier: fc.constantFrom(...suppliers.map(each => each.code)),
    branch,
    supplierNumber: fc.constant('A/77'),
    lines: fc.array(fc.record({ account: fc.constantFrom('6150', '6135', '1530'), description: fc.constant('Paint'), amount: money }), {
      minLength: 1,
      maxLength: 3,
    }),
  })
  await fc.assert(
    fc.asyncProperty(
      invoice,
      bill,
      fc.integer({ min: 1, max: 100 }),
      fc.integer({ min: 0, max: 5000 }),
      async (sold, bought, percent, extra) => {
        const number = await post({ kind: 'invoice', invoice: sold as Extract<DeskDocument, { kind: 'invoice' }>['invoice'] })
        await post({ kind: 'bill', bill: bought })
        const { total } = await one<{ total: string }>('select total::text from invoices where number = $1', [number])
        const part = Math.max(1, Math.round(Number(total) * percent))
        const receipt = {
          date: '2026-11-05',
          customer: sold.customer,
          branch: sold.branch,
          amount: ((part + extra) / 100).toFixed(2),
          pays: [{ invoice: number, amount: (part / 100).toFixed(2) }],
        }
        await post({ kind: 'receipt', receipt })
        expect(await broken()).toEqual([])
      },
    ),
    { numRuns: 12 },
  )
})

it('an invoice stands as it was written, priced and taxed by the company', async () => {
  const item = await one<{ code: string; price: string; cost: string }>(
    "select code, price::text, cost::text from items where tax_code = 'S' order by id limit 1",
  )
  const { code } = await one<{ code: string }>(
    "select code from customers where currency_code = 'EUR' and payment_term_code = 'NET-30' order by id limit 1",
  )
  const number = await post({
    kind: 'invoice',
    invoice: {
      date: '2026-10-05',
      customer: code,
      branch: 'NQ',
      lines: [
        { item: item.code, quantity: '2' },
        { account: '4210', description: 'Hull cleaning', quantity: '1.5', price: '40' },
      ],
      freight: '10',
      discount: '5',
    },
  }).catch(async (error: Error) => `${error.message} ${JSON.stringify(await all('select code from branches'))}`)
  const found = await one<{ lines_total: string; tax_total: string; total: string; due: string }>(
    'select lines_total::text, tax_total::text, total::text, due_date::text as due from invoices where number = $1',
    [number],
  )
  const goods = Number(item.price) * 2 + 60
  const tax = Math.round((goods + 10 - 5) * 22 + Number.EPSILON) / 100
  expect(found).toEqual({
    lines_total: goods.toFixed(2),
    tax_total: tax.toFixed(2),
    total: (goods + 5 + tax).toFixed(2),
    due: '2026-11-04',
  })
})

it('says in one sentence what is wrong, and posts nothing of it', async () => {
  const { n } = await one<{ n: number }>('select count(*)::int as n from journals')
  const customer = await one<{ code: string; id: number }>("select code, id from customers where currency_code = 'EUR' order by id limit 1")
  const invoice = (change: object) =>
    refused({
      kind: 'invoice',
      invoice: { date: '2026-10-05', customer: customer.code, branch: 'NQ', lines: [{ item: 'ROP-001', quantity: '1' }], ...change },
    })
  expect(await invoice({ customer: 'C-nobody' })).toBe('There is no customer “C-nobody”; choose one of the list.')
  expect(await invoice({ branch: 'ZZ' })).toMatch(/^There is no branch “ZZ”/)
  expect(await invoice({ lines: [] })).toMatch(/has no lines/)
  expect(await invoice({ lines: [{ item: 'ROP-001', quantity: '0' }] })).toMatch(/^Line 1 has the quantity “0”/)
  expect(await invoice({ lines: [{ item: "nothing'; drop table items; --", quantity: '1' }] })).toMatch(/^Line 1 sells the item/)
  expect(await invoice({ lines: [{ account: '6150', quantity: '1', price: '1' }] })).toMatch(/no account of income/)
  expect(await invoice({ lines: [{ item: 'ROP-001', quantity: '999999999', price: '9999999999' }] })).toMatch(
    /more than the books can hold/,
  )
  expect(await invoice({ discount: '100000' })).toMatch(/discount is more/)
  expect(await invoice({ date: '2025-05-05' })).toMatch(/is closed/)
  const receipt = (change: object) =>
    refused({ kind: 'receipt', receipt: { date: '2026-10-05', customer: customer.code, branch: 'NQ', amount: '10', pays: [], ...change } })
  expect(await receipt({ amount: '0' })).toMatch(/no amount that can be received/)
  expect(await receipt({ pays: [{ invoice: 'INV-99999', amount: '1' }] })).toBe(
    'INV-99999 is no invoice of this customer; choose one that is open.',
  )
  const bill = (change: object) =>
    refused({ kind: 'bill', bill: { date: '2026-10-05', supplier: 'S-nobody', branch: 'NQ', supplierNumber: '1', lines: [], ...change } })
  expect(await bill({})).toMatch(/There is no supplier/)
  expect(await one('select count(*)::int as n from journals')).toEqual({ n })
})
