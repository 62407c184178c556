import { PGlite } from '@electric-sql/pglite'
import { beforeAll, describe, expect, it, onTestFinished } from 'vitest'
import { companyFolder, schema as sourceSchema } from '../source'
import { demoData, demoDatabase } from '../../tests/support'
import { isValidIBAN } from 'ibantools'
import { demoRows, fillDemo } from './fill'
import { renewDemo } from './renew'

let db: PGlite
beforeAll(async () => {
  ;({ db } = await demoDatabase())
})
const rows = async <T>(sql: string) => (await db.query<T>(sql)).rows
const number = async (sql: string) => Number((await rows<{ value: string }>(sql))[0]!.value)

describe('the books', () => {
  it('each journal balances, within each branch too', async () => {
    expect(await rows('select journal_id, branch_id from journal_lines group by 1, 2 having sum(debit) <> sum(credit)')).toEqual([])
    expect(await number('select count(*) as value from journals where id not in (select journal_id from journal_lines)')).toBe(0)
  })
  it('open items at any date, unapplied receipts included, at booked rates equal the control account', async () => {
    expect(
      await rows(`
      select d::date, ledger.balance, items.balance from generate_series('2024-05-01'::date, '2026-10-31'::date, interval '9 days') as d,
      lateral (select coalesce(sum(l.debit - l.credit), 0) as balance from journal_lines l join journals j on j.id = l.journal_id
      where l.account_code = '1200' and j.posting_date <= d) as ledger,
      lateral (select coalesce((select sum(base_total) from invoices where invoice_date <= d), 0) - coalesce((select
      sum(base_amount) from receipts where receipt_date <= d), 0)
        + coalesce((select sum(source_base_amount - base_amount) from applications where applied_on <= d), 0) as balance) as items
      where ledger.balance <> items.balance`),
    ).toEqual([])
  })
  it('no document is settled for more than it is, nor before it exists', async () => {
    expect(
      await rows(
        `select i.id from invoices i join applications a on a.invoice_id = i.id group by i.id having sum(a.amount) > i.total or
          min(a.applied_on) < min(i.invoice_date)`,
      ),
    ).toEqual([])
    expect(
      await rows(
        `select r.id from receipts r join applications a on a.receipt_id = r.id group by r.id having sum(a.amount) > r.amount or
          sum(a.source_base_amount) > r.base_amount`,
      ),
    ).toEqual([])
    expect(
      await rows(
        `select i.id from invoices i join applications a on a.credit_note_id = i.id group by i.id having sum(a.amount) > -i.total`,
      ),
    ).toEqual([])
    expect(
      await rows(
        `select i.id from invoices i join applications a on a.invoice_id = i.id group by i.id having sum(a.amount) = i.total and
          sum(a.base_amount) <> i.base_total`,
      ),
    ).toEqual([])
  })
  it('tax lines equal the tax account', async () => {
    expect(
      await number(
        'select (select sum(base_currency_amount) from invoice_taxes) - (select sum(credit - debit) from journal_lines l join ' +
          "journals j on j.id = l.journal_id where account_code = '2310' and j.source <> 'tax') as value",
      ),
    ).toBe(0)
  })
  it('documents add up: lines, freight, discount and tax', async () => {
    expect(await rows('select id from invoices where total <> lines_total + freight - discount + tax_total')).toEqual([])
    expect(
      await rows(
        'select i.id from invoices i left join invoice_lines l on l.invoice_id = i.id group by i.id having i.lines_total <> ' +
          'coalesce(sum(l.amount), 0)',
      ),
    ).toEqual([])
    expect(
      await rows(
        'select i.id from invoices i left join invoice_taxes t on t.invoice_id = i.id group by i.id having i.tax_total <> ' +
          'coalesce(sum(t.amount), 0) or i.lines_total + i.freight - i.discount <> coalesce(sum(t.base), 0)',
      ),
    ).toEqual([])
    expect(await rows("select 1 from invoice_lines where kind <> 'comment' and amount <> round(quantity * unit_price, 2)")).toEqual([])
    expect(await rows('select 1 from invoice_taxes where amount <> round(base * rate / 100, 2)')).toEqual([])
    expect(
      await rows(
        `select 1 from invoice_taxes t join invoices i on i.id = t.invoice_id where t.rate <> (select r.rate from tax_rates r where
          r.tax_code = t.tax_code and r.valid_from <= i.invoice_date order by r.valid_from desc limit 1)`,
      ),
    ).toEqual([])
  })
  it('dates lie in the period they are posted to', async () => {
    expect(
      await rows(
        'select j.id from journals j join fiscal_periods p on p.fiscal_year_id = j.fiscal_year_id and p.number = j.period_number ' +
          'where j.posting_date not between p.starts_on and p.ends_on',
      ),
    ).toEqual([])
  })
})

it('has the size of the company, and the traps of real tables', async () => {
  const count = (table: string, where = 'true') => number(`select count(*) as value from ${table} where ${where}`)
  expect(await count('invoices')).toBeGreaterThanOrEqual(2500)
  expect(await count('invoice_lines')).toBeGreaterThanOrEqual(9000)
  expect([await count('customers'), await count('items')]).toEqual([400, 900])
  expect(
    await number('select count(*) as value from (select name from customers group by name having count(*) = 2) as twins'),
  ).toBeGreaterThan(0)
  expect(
    await number(
      'select count(*) as value from invoices i where freight > 0 and (select count(*) from invoice_taxes t where t.invoice_id = i.id) = 3',
    ),
  ).toBeGreaterThan(0)
  expect(await count('invoices', 'due_date is null')).toBeGreaterThan(0)
  expect(await count('invoices', "kind = 'credit note' and total < 0")).toBeGreaterThan(0)
  expect(await count('invoice_lines', "kind = 'comment' and item_id is null")).toBeGreaterThan(0)
  expect(await count('items', 'category_id is null')).toBeGreaterThan(0)
  expect(await number('select max(lines) as value from (select count(*) as lines from invoice_lines group by invoice_id) as sizes')).toBe(
    120,
  )
  expect(await count('journal_lines', "account_code = '4900' and journal_id not in (select id from journals where is_closing)")).toBe(1)
  expect(await count('accounts', 'code not in (select account_code from journal_lines)')).toBeGreaterThan(3)
  expect(await count('journals', 'period_number = 13 and not is_closing')).toBeGreaterThan(3)
  for (const part of ['Ψ', 'З', '<', '&', '"', '’']) expect(await count('customers', `name like '%${part}%'`), part).toBeGreaterThan(0)
  expect(await count('customers', 'length(name) > 100')).toBeGreaterThan(0)
  // partial, early, late and unapplied payments
  expect(
    await number('select count(*) as value from invoices i join applications a on a.invoice_id = i.id where a.amount < i.total'),
  ).toBeGreaterThan(0)
  expect(
    await number('select count(*) as value from applications a join invoices i on i.id = a.invoice_id where a.applied_on < i.due_date'),
  ).toBeGreaterThan(0)
  expect(
    await number('select count(*) as value from applications a join invoices i on i.id = a.invoice_id where a.applied_on > i.due_date'),
  ).toBeGreaterThan(0)
  expect(await count('receipts', 'id not in (select receipt_id from applications where receipt_id is not null)')).toBeGreaterThan(0)
})

it('is the same every time it is made', async () => {
  const text = async () => (await Promise.all([...demoRows(1).values()].map(table => table.blob().text()))).join('\f')
  expect(await text()).toBe(await text())
})

describe('the rest of the books', () => {
  it(
    'each year that is over is closed into retained earnings, branch by branch, and nothing of it is left on income and ' + 'expense',
    async () => {
      expect(
        await rows(
          `select j.fiscal_year_id, l.branch_id, l.account_code from journal_lines l join journals j on j.id = l.journal_id join
          accounts a on a.code = l.account_code where a.type in ('income', 'expense') and j.fiscal_year_id < 2026 group by 1, 2, 3
          having sum(debit) <> sum(credit)`,
        ),
      ).toEqual([])
      expect(await rows('select fiscal_year_id, count(*)::int as journals from journals where is_closing group by 1 order by 1')).toEqual([
        { fiscal_year_id: 2024, journals: 3 },
        { fiscal_year_id: 2025, journals: 3 },
      ])
      expect(await number("select sum(credit - debit) as value from journal_lines where account_code = '3900'")).toBeGreaterThan(0)
    },
  )
  it('salaries and taxes are paid, fixed assets wear, the loan shrinks, and the bank never runs dry', async () => {
    const balance = (code: string, day = '2026-10-31') =>
      number(
        `select coalesce(sum(l.debit - l.credit), 0) as value from journal_lines l join journals j on j.id = l.journal_id where
          account_code = '${code}' and j.posting_date <= '${day}'`,
      )
    expect(await balance('2200')).toBe(0)
    expect(await balance('2330', '2025-03-31')).toBeLessThan(0)
    expect(await balance('2330', '2025-08-01')).toBe(0)
    expect([
      (await balance('2510')) > (await balance('2510', '2025-01-01')),
      (await balance('1590')) < (await balance('1590', '2025-01-01')),
    ]).toEqual([true, true])
    expect(
      await rows(
        'select posting_date, branch_id, held from (select j.posting_date, l.branch_id, sum(sum(l.debit - l.credit)) over ' +
          '(partition by l.branch_id order by j.posting_date) as held from journal_lines l join journals j on j.id = l.journal_id where ' +
          "l.account_code in ('1010', '1020') group by 1, 2) as bank where held < 0",
      ),
    ).toEqual([])
  })
  it('budgets stand in two versions for every period of every year, by branch', async () => {
    expect(
      await rows(
        'select version, count(distinct (fiscal_year_id, period_number))::int as periods, count(distinct branch_id)::int as ' +
          'branches from budgets group by 1 order by 1',
      ),
    ).toEqual([
      { version: 'original', periods: 36, branches: 3 },
      { version: 'revised', periods: 36, branches: 3 },
    ])
  })
})

describe('purchasing', () => {
  const series = "generate_series('2024-05-01'::date, '2026-10-31'::date, interval '9 days') as d"
  const account = (code: string) =>
    `lateral (select coalesce(sum(l.debit - l.credit), 0) as balance from journal_lines l join journals j on j.id = l.journal_id
      where l.account_code = '${code}' and j.posting_date <= d) as ledger`
  it('what is owed at any date, advances included, equals the payables control account', async () => {
    expect(
      await rows(`select d from ${series}, ${account('2100')}, lateral (select coalesce((select sum(base_total) from supplier_bills
        where bill_date <= d), 0) - coalesce((select sum(base_amount) from payments where payment_date <= d), 0)
      + coalesce((select sum(source_base_amount - base_amount) from payment_applications where applied_on <= d), 0) as balance) as
      items where -ledger.balance <> items.balance`),
    ).toEqual([])
    expect(await number('select count(*) as value from payment_applications')).toBeGreaterThan(1000)
  })
  it('stock at any date, at standard cost, equals the stock account', async () => {
    expect(
      await rows(
        `select d from ${series}, ${account('1300')}, lateral (select coalesce(sum(amount), 0) as balance from stock_movements
          where movement_date <= d) as stock where ledger.balance <> stock.balance`,
      ),
    ).toEqual([])
    expect(
      await rows('select m.id from stock_movements m join items i on i.id = m.item_id where abs(m.amount - m.quantity * i.cost) > 0.01'),
    ).toEqual([])
  })
  it('goods received and not billed equal their account', async () => {
    expect(
      await rows(`select d from ${series}, ${account('2150')}, lateral (select coalesce(sum(l.base_amount), 0) as balance from
        goods_receipt_lines l join goods_receipts r on r.id = l.receipt_id
      where r.receipt_date <= d and not exists (select 1 from supplier_bill_lines b join supplier_bills s on s.id = b.bill_id where
      b.receipt_id = l.receipt_id and b.receipt_line_no = l.line_no and s.bill_date <= d)) as waiting where -ledger.balance <>
      waiting.balance`),
    ).toEqual([])
  })
  it('stock levels hold what movements, open orders and promises come to, and never less than nothing', async () => {
    expect(
      await rows(
        'select s.item_id from stock_levels s left join (select item_id, warehouse_id, sum(quantity) as quantity, min(running) as ' +
          'lowest from (select *, sum(quantity) over (partition by item_id, warehouse_id order by movement_date, id) as running from ' +
          'stock_movements) as m group by 1, 2) as m using (item_id, warehouse_id) where s.on_hand <> ' +
          'coalesce(m.quantity, 0) or m.lowest < 0',
      ),
    ).toEqual([])
    expect(
      await rows(
        'select s.item_id from stock_levels s left join (select l.item_id, o.warehouse_id, sum(l.quantity - l.received) as open ' +
          'from purchase_order_lines l join purchase_orders o on o.id = l.order_id where not l.is_closed group by 1, 2) ' +
          'as l using (item_id, ' +
          'warehouse_id) where s.on_order <> coalesce(l.open, 0)',
      ),
    ).toEqual([])
    expect(
      await rows(
        "select s.item_id from stock_levels s join warehouses w on w.id = s.warehouse_id and w.code like '%-A' left join (select " +
          'l.item_id, o.branch_id, sum(l.quantity) as promised from order_lines l join orders o on o.id = l.order_id ' +
          'where not exists (select ' +
          '1 from invoices i where i.order_id = o.id) group by 1, 2) as l on l.item_id = s.item_id and l.branch_id = w.branch_id where ' +
          's.reserved <> coalesce(l.promised, 0)',
      ),
    ).toEqual([])
  })
  it('documents add up, nothing is received before it is ordered or for more than it is', async () => {
    expect(
      await rows(
        'select o.id from purchase_orders o join purchase_order_lines l on l.order_id = o.id group by o.id having o.total <> sum(l.amount)',
      ),
    ).toEqual([])
    expect(
      await rows(
        'select b.id from supplier_bills b join supplier_bill_lines l on l.bill_id = b.id group by b.id having b.lines_total <> ' +
          'sum(l.amount) or b.total <> b.lines_total + b.tax_total',
      ),
    ).toEqual([])
    expect(
      await rows(
        'select l.order_id from purchase_order_lines l left join (select order_id, order_line_no, sum(quantity) as quantity from ' +
          'goods_receipt_lines group by 1, 2) as g on g.order_id = l.order_id and g.order_line_no = l.line_no where l.received <> ' +
          'coalesce(g.quantity, 0) or l.received > l.quantity',
      ),
    ).toEqual([])
    expect(
      await rows('select r.id from goods_receipts r join purchase_orders o on o.id = r.order_id where r.receipt_date < o.order_date'),
    ).toEqual([])
    expect(
      await rows(
        'select b.id from supplier_bills b join payment_applications a on a.bill_id = b.id group by b.id having sum(a.amount) > ' +
          'b.total or min(a.applied_on) < min(b.bill_date) or (sum(a.amount) = b.total and sum(a.base_amount) <> b.base_total)',
      ),
    ).toEqual([])
    expect(
      await rows(`select number from (select j.document_number as number, sum(l.credit - l.debit) as posted from journal_lines l
        join journals j on j.id = l.journal_id where j.source = 'shipment' and l.account_code = '1300' group by 1) as posted
      full join (select i.number, sum(round(l.quantity * t.cost, 2)) as cost from invoice_lines l join items t on t.id = l.item_id
      join invoices i on i.id = l.invoice_id group by 1 having sum(round(l.quantity * t.cost, 2)) <> 0) as cost using (number)
      where posted is distinct from cost`),
    ).toEqual([])
  })
  it('has its traps', async () => {
    const count = (table: string, where = 'true') => number(`select count(*) as value from ${table} where ${where}`)
    expect(await count('suppliers')).toBe(60)
    expect(await number('select count(*) as value from (select name from suppliers group by name having count(*) = 2) as twins')).toBe(1)
    expect(await count('items i', 'not exists (select 1 from item_suppliers s where s.item_id = i.id)')).toBeGreaterThan(0)
    expect(
      await count(
        'items i',
        'exists (select 1 from item_suppliers s where s.item_id = i.id) and not exists (select 1 from item_suppliers s where ' +
          's.item_id = i.id and s.is_preferred)',
      ),
    ).toBeGreaterThan(0)
    expect(await count('item_suppliers', "valid_to < '2026-10-31'")).toBeGreaterThan(0)
    for (const where of ['due_date is null', "kind = 'credit note' and total < 0", 'payment_term_code is null'])
      expect(await count('supplier_bills', where), where).toBeGreaterThan(0)
    for (const where of [
      'received = 0 and not is_closed',
      'received > 0 and received < quantity and not is_closed',
      'received < quantity and is_closed',
    ])
      expect(await count('purchase_order_lines', where), where).toBeGreaterThan(0)
    expect(await count('payments', 'id not in (select payment_id from payment_applications where payment_id is not null)')).toBeGreaterThan(
      0,
    )
    for (const status of ['waiting', 'approved', 'refused', 'ordered'])
      expect(await count('purchase_requests', `status = '${status}'`), status).toBeGreaterThan(0)
    expect(
      await number('select max(n) as value from (select count(*) as n from purchase_order_lines group by order_id) as sizes'),
    ).toBeGreaterThan(4)
  })
  it('comes to a company that was made before it, and leaves what was there', async () => {
    const older = await PGlite.create(companyFolder(demoData()))
    onTestFinished(() => older.close())
    await older.exec(`set search_path to ${sourceSchema}`)
    const figures = () =>
      older.query(
        'select (select count(*) from journals) as journals, (select sum(debit) from journal_lines) as debits, (select count(*) ' +
          'from orders) as orders, (select count(*) from stock_levels) as levels, (select sum(base_total) from supplier_bills) as bills',
      )
    const whole = await figures()
    const schema = (await older.query<{ name: string }>('select current_schema() as name')).rows[0]!.name
    const gone = [
      'budgets',
      'payment_applications',
      'payments',
      'supplier_bill_lines',
      'supplier_bills',
      'goods_receipt_lines',
      'goods_receipts',
      'purchase_order_lines',
      'purchase_orders',
      'purchase_request_lines',
      'purchase_requests',
      'stock_movements',
      'stock_levels',
      'item_suppliers',
      'suppliers',
      'buyers',
    ]
    const tree = () => older.query('select * from accounts order by code')
    const accounts = (await tree()).rows
    await older.exec(
      `drop table ${gone.join(', ')}; delete from journal_lines where journal_id in (select id from journals where source not in
        ('sales', 'receipt', 'application', 'manual')); delete from journals where source not in ('sales', 'receipt',
        'application', 'manual'); update journals set description = 'Changed by hand' where id = 1; alter table accounts drop
        column parent_code; delete from accounts where code in ('6100', '6101', '6102', '6103', '6000', '4000', '4200')`,
    )
    await fillDemo(older, schema, 1)
    expect((await figures()).rows).toEqual(whole.rows)
    expect((await tree()).rows).toEqual(accounts)
    expect((await older.query('select description from journals where id = 1')).rows).toEqual([{ description: 'Changed by hand' }])
    await fillDemo(older, schema, 1)
    expect((await figures()).rows).toEqual(whole.rows)
  })
})

describe('what an invoice by law names', () => {
  const lawful = [
    'select * from companies',
    'select id, company_id from branches order by id',
    'select * from units order by code',
    'select * from tax_codes order by code',
    'select id, country_code, tax_number from customers order by id',
    'select id, bank_account from suppliers order by id',
    'select id, delivered_on, freight_tax_code, discount_tax_code from invoices order by id',
    'select invoice_id, line_no, tax_rate from invoice_lines order by 1, 2',
  ]
  it('stands in the tables: rates of the day, discounts off a base that adds up, numbers that begin with countries', async () => {
    expect(
      await rows(
        'select l.invoice_id from invoice_lines l join invoice_taxes t on t.invoice_id = l.invoice_id and t.tax_code = l.tax_code where ' +
          'l.tax_rate is distinct from t.rate',
      ),
    ).toEqual([])
    expect(
      await rows(
        `select i.id from invoices i join invoice_taxes t on t.invoice_id = i.id where t.base <> coalesce((select sum(l.amount) from
          invoice_lines l where l.invoice_id = i.id and l.tax_code = t.tax_code), 0) + case when i.freight_tax_code = t.tax_code then
          i.freight else 0 end - case when i.discount_tax_code = t.tax_code then i.discount else 0 end`,
      ),
    ).toEqual([])
    expect(
      await rows("select id from customers where tax_number is not null and tax_number !~ ('^' || country_code || '[0-9]{9}$')"),
    ).toEqual([])
    expect(
      await rows(
        `select c.id from invoices c left join invoices i on i.id = c.credited_invoice_id where c.kind = 'credit note' and (i.kind is
          distinct from 'invoice' or i.customer_id <> c.customer_id or i.invoice_date > c.invoice_date)`,
      ),
    ).toEqual([])
    expect(await rows('select code from units where unece_code is null')).toEqual([])
    const [own] = await rows<{ iban: string; country_code: string }>('select iban, country_code from companies')
    expect([isValidIBAN(own!.iban), own!.iban.slice(0, 2)]).toEqual([true, own!.country_code])
    const accounts = await rows<{ bank_account: string }>('select bank_account from suppliers')
    expect(accounts.filter(each => !isValidIBAN(each.bank_account))).toEqual([])
    expect(new Set(accounts.map(each => each.bank_account)).size).toBe(accounts.length)
  })
  it('comes to an older company too, the same as if it had been there from the beginning', async () => {
    const older = await PGlite.create(companyFolder(demoData()))
    onTestFinished(() => older.close())
    await older.exec(`set search_path to ${sourceSchema}`)
    const fresh = await Promise.all(lawful.map(async sql => (await older.query(sql)).rows))
    await older.exec(`
      update customers set tax_number = 'X' || right(tax_number, 9);
      update suppliers set bank_account = (select 'XX12 ' || substr(d, 1, 4) || ' ' || substr(d, 5, 4) || ' ' || substr(d, 9, 4) from
        (select case when bank_account like 'GB%' then substr(bank_account, 11, 12) when bank_account like 'PT%' then substr(bank_account,
        9, 4) || substr(bank_account, 16, 8) end as d) as own) where bank_account not like 'NO%';
      alter table branches drop column company_id; drop table companies;
      alter table units drop column unece_code;
      alter table tax_codes drop column category, drop column exemption_reason;
      alter table customers drop column country_code;
      alter table invoices drop column delivered_on, drop column credited_invoice_id, drop column freight_tax_code,
        drop column discount_tax_code;
      alter table invoice_lines drop column tax_rate`)
    await renewDemo(older, sourceSchema)
    await renewDemo(older, sourceSchema)
    expect(await Promise.all(lawful.map(async sql => (await older.query(sql)).rows))).toEqual(fresh)
    const { rows: credits } = await older.query(
      `select c.id from invoices c where c.credited_invoice_id is distinct from (select min(a.invoice_id) from applications a where
        a.credit_note_id = c.id)`,
    )
    expect(credits).toEqual([])
  })
})
