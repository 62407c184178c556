import type { PGlite } from '@electric-sql/pglite'
import { sql } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import { comment } from './fill'
import { ibanOf } from './iban'
import { company, taxCategories, unitCodes } from './masters'
import { tables } from './tables'

const dialect = new PgDialect()

/** Columns that the company has gained since some folder with it was made: they are added there, and filled where it can be told. */
export async function renewDemo(db: PGlite, schema: string): Promise<void> {
  const name = `"${schema.replaceAll('"', '""')}"`
  await db.exec(
    `alter table ${name}.customers add column if not exists email text; alter table ${name}.suppliers add column if not exists email
      text; alter table ${name}.fiscal_periods add column if not exists closed_on date;`,
  )
  const { rows } = await db.query(
    "select 1 from information_schema.columns where table_schema = $1 and table_name = 'invoice_lines' and column_name = 'tax_rate'",
    [schema],
  )
  if (!rows.length) await nameForTheLaw(db, name)
}

/** What an invoice by law names: the company, codes of units and taxes, countries, days of deliveries, invoices that are credited. */
async function nameForTheLaw(db: PGlite, schema: string): Promise<void> {
  await db.transaction(async transaction => {
    await transaction.exec(`set local search_path to ${schema}`)
    await transaction.exec(/create table companies [\s\S]*?;\n/.exec(tables)![0].replace('table', 'table if not exists'))
    const values = sql.join(
      company.map(each => sql`${each}`),
      sql`, `,
    )
    const { sql: text, params } = dialect.sqlToQuery(sql`insert into companies values (${values}) on conflict do nothing`)
    await transaction.query(text, params)
    await transaction.exec(`
      alter table branches add column if not exists company_id integer references companies;
      alter table units add column if not exists unece_code text;
      alter table tax_codes add column if not exists category text, add column if not exists exemption_reason text;
      alter table customers add column if not exists country_code char(2) references countries;
      alter table invoices add column if not exists delivered_on date,
        add column if not exists credited_invoice_id integer references invoices,
        add column if not exists freight_tax_code text references tax_codes,
        add column if not exists discount_tax_code text references tax_codes;
      alter table invoice_lines add column if not exists tax_rate numeric(6,3);
      update branches set company_id = 1;
      update customers c set country_code = coalesce((select r.country_code from towns t join regions r on r.id = t.region_id where
        t.id = c.town_id), 'PT');
      update customers set tax_number = case country_code when 'GR' then 'EL' else trim(country_code) end || substr(tax_number, 2)
        where tax_number ~ '^X[0-9]{9}$';
      update invoices i set delivered_on = invoice_date, freight_tax_code = case when freight <> 0 then 'S' end,
        credited_invoice_id = (select min(a.invoice_id) from applications a where a.credit_note_id = i.id),
        discount_tax_code = case when discount <> 0 then (select x.tax_code from invoice_taxes x where x.invoice_id = i.id and x.base =
          coalesce((select sum(l.amount) from invoice_lines l where l.invoice_id = i.id and l.tax_code = x.tax_code), 0)
          + case when x.tax_code = 'S' then i.freight else 0 end - i.discount order by x.base desc limit 1) end;
      update invoice_lines l set tax_rate = x.rate from invoice_taxes x where x.invoice_id = l.invoice_id and x.tax_code = l.tax_code`)
    for (const [code, own] of Object.entries(unitCodes))
      await transaction.query('update units set unece_code = $2 where code = $1', [code, own])
    for (const [code, own] of Object.entries(taxCategories))
      await transaction.query('update tax_codes set category = $2 where code = $1', [code, own])
    // accounts of suppliers had no check digits
    const { rows } = await transaction.query<{ id: number; account: string; country: string | null }>(
      `select s.id, s.bank_account as account, trim(r.country_code) as country from suppliers s left join towns t on t.id = s.town_id
        left join regions r on r.id = t.region_id where s.bank_account ~ '^XX[0-9]{2}( [0-9]{4}){3}$'`,
    )
    for (const { id, account, country } of rows)
      await transaction.query('update suppliers set bank_account = $2 where id = $1', [
        id,
        ibanOf(country ?? 'PT', account.slice(5).replaceAll(' ', '')),
      ])
    await comment(transaction, table =>
      ['companies', 'branches', 'units', 'tax_codes', 'customers', 'invoices', 'invoice_lines'].includes(table),
    )
  })
}
