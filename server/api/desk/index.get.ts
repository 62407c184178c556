import { sql } from 'drizzle-orm'

/**
 * What the company desk offers: accounts, branches, departments, customers, suppliers and items (the first of each where there are very
 * many), and what was posted there last.
 */
export default route(async (_, app) => {
  const table = deskTable
  const most = 2000
  const [accounts, branches, departments, customers, suppliers, items, posted] = await Promise.all([
    deskRows(
      app,
      sql`select code, name, type from ${table('accounts')} as own where not exists (select 1 from ${table('accounts')} as below
        where below.parent_code = own.code) order by code`,
      ['code', 'name', 'type'],
    ),
    deskRows(app, sql`select code, name from ${table('branches')} order by id`, ['code', 'name']),
    deskRows(app, sql`select code, name from ${table('departments')} order by id`, ['code', 'name']),
    deskRows(
      app,
      sql`select c.code, c.name, trim(c.currency_code) as currency, b.code as branch from ${table('customers')} c left join
        ${table('salespeople')} s on s.id = c.salesperson_id left join ${table('branches')} b on b.id = s.branch_id order by c.id
        limit ${most}::integer`,
      ['code', 'name', 'currency', 'branch'],
    ),
    deskRows(app, sql`select code, name, trim(currency_code) as currency from ${table('suppliers')} order by id limit ${most}::integer`, [
      'code',
      'name',
      'currency',
    ]),
    deskRows(
      app,
      sql`select code, name, price::text as price, unit_code as unit from ${table('items')} order by code limit ${most}::integer`,
      ['code', 'name', 'price', 'unit'],
    ),
    deskRows(
      app,
      sql`select j.number, j.posting_date::text as date, j.description, coalesce(j.document_number, '') as document,
        sum(l.debit)::text as amount from ${table('journals')} j join ${table('journal_lines')} l on l.journal_id = j.id where
        j.source = 'desk' group by j.id, j.number, j.posting_date, j.description, j.document_number order by j.id desc limit 30`,
      ['number', 'date', 'description', 'document', 'amount'],
    ),
  ])
  return { accounts, branches, departments, customers, suppliers, items, entries: posted }
})
