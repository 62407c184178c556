import { sql, type SQL } from 'drizzle-orm'
import { array, object, type Schema, string } from 'yup'
import { valueAt } from '../../core/value/columns'
import { dayText } from '../../core/value/date'
import { plainText } from '../../core/value/plain'
import type { Context } from '../../server/access/context'
import { type Desk, SourceError } from '../../server/sources/contract'
import type { EmbeddedEngine } from '../../server/sources/embedded/engine'
import type { DeskDocument } from '../../core/api/desk'
import { bound } from '../../core/catalog/dialect'

const text = () => string().strict().defined().max(500)
const optional = () => string().strict().max(500)
const lines = (fields: Record<string, ReturnType<typeof optional>>) => array(object(fields).noUnknown()).strict().required().max(500)
const shapes: Record<DeskDocument['kind'], Schema> = {
  entry: object({
    date: text(),
    description: text(),
    document: optional(),
    lines: lines({ account: text(), branch: text(), department: optional(), debit: optional(), credit: optional() }),
  }).noUnknown(),
  invoice: object({
    date: text(),
    customer: text(),
    branch: text(),
    freight: optional(),
    discount: optional(),
    note: optional(),
    lines: lines({ item: optional(), account: optional(), description: optional(), quantity: text(), price: optional() }),
  }).noUnknown(),
  receipt: object({
    date: text(),
    customer: text(),
    branch: text(),
    amount: text(),
    pays: lines({ invoice: text(), amount: text() }),
  }).noUnknown(),
  bill: object({
    date: text(),
    supplier: text(),
    branch: text(),
    supplierNumber: text(),
    lines: lines({ account: text(), department: optional(), description: text(), amount: text() }),
  }).noUnknown(),
  closing: object({ year: text(), number: text(), date: optional() }).noUnknown(),
}

/** Where somebody posts documents to the company as it would itself, to see them in the reports. */
export function companyDesk(engine: EmbeddedEngine, schema: string): Desk {
  const table = (name: string) => sql`${sql.identifier(schema)}.${sql.identifier(name)}`
  /** Rows of a statement over the company, all values as text. */
  const rowsFor =
    (context: Context) =>
    async <K extends string>(statement: SQL, columns: readonly K[]): Promise<Record<K, string>[]> => {
      const asked = { ...bound(statement), columns: columns.map(path => ({ path, type: 'text' as const })) }
      const found = await engine.query(context, asked, { task: 'desk' })
      return Array.from(
        { length: found.count },
        (_row, row) =>
          Object.fromEntries(columns.map((path, at) => [path, plainText(valueAt(found.columns[at]!, row), dayText)])) as Record<K, string>,
      )
    }
  return {
    /**
     * Accounts, branches, departments, customers, suppliers and items (the first of each where there are very many), and what was posted
     * here last.
     */
    async offers(context) {
      const rows = rowsFor(context)
      const most = 2000
      const [accounts, branches, departments, customers, suppliers, items, periods, closed, posted] = await Promise.all([
        rows(
          sql`select code, name, type from ${table('accounts')} as own where not exists (select 1 from ${table('accounts')} as below
        where below.parent_code = own.code) order by code`,
          ['code', 'name', 'type'],
        ),
        rows(sql`select code, name from ${table('branches')} order by id`, ['code', 'name']),
        rows(sql`select code, name from ${table('departments')} order by id`, ['code', 'name']),
        rows(
          sql`select c.code, c.name, trim(c.currency_code) as currency, b.code as branch from ${table('customers')} c left join
        ${table('salespeople')} s on s.id = c.salesperson_id left join ${table('branches')} b on b.id = s.branch_id order by c.id
        limit ${most}::integer`,
          ['code', 'name', 'currency', 'branch'],
        ),
        rows(sql`select code, name, trim(currency_code) as currency from ${table('suppliers')} order by id limit ${most}::integer`, [
          'code',
          'name',
          'currency',
        ]),
        rows(sql`select code, name, price::text as price, unit_code as unit from ${table('items')} order by code limit ${most}::integer`, [
          'code',
          'name',
          'price',
          'unit',
        ]),
        rows(
          sql`select fiscal_year_id::text as year, number::text as number, name, ends_on::text as "end" from ${table('fiscal_periods')}
        where closed_on is null and not is_adjustment order by ends_on limit 60`,
          ['year', 'number', 'name', 'end'],
        ),
        rows(
          sql`select fiscal_year_id::text as year, number::text as number, name, ends_on::text as "end" from ${table('fiscal_periods')}
        where closed_on is not null and not is_adjustment order by ends_on desc limit 1`,
          ['year', 'number', 'name', 'end'],
        ),
        rows(
          sql`select j.number, j.posting_date::text as date, j.description, coalesce(j.document_number, '') as document,
        sum(l.debit)::text as amount from ${table('journals')} j join ${table('journal_lines')} l on l.journal_id = j.id where
        j.source = 'desk' group by j.id, j.number, j.posting_date, j.description, j.document_number order by j.id desc limit 30`,
          ['number', 'date', 'description', 'document', 'amount'],
        ),
      ])
      return {
        ...{ accounts, branches, departments, customers, suppliers, items, periods, entries: posted },
        ...(closed[0] && { closed: closed[0] }),
      }
    },
    /** Open invoices of a customer in a branch, oldest first. */
    open(context, { customer, branch }) {
      if (typeof customer !== 'string' || typeof branch !== 'string') throw new SourceError('Say which customer and branch are meant.')
      return rowsFor(context)(
        sql`select i.number, i.invoice_date::text as date, coalesce(i.due_date::text, '') as due, (i.total - coalesce(sum(a.amount),
      0))::text as open from ${table('invoices')} i join ${table('customers')} c on c.id = i.customer_id join ${table('branches')}
      b on b.id = i.branch_id left join ${table('applications')} a on a.invoice_id = i.id
    where i.kind = 'invoice' and c.code = ${customer} and b.code = ${branch} group by i.id, i.number, i.invoice_date, i.due_date,
    i.total having i.total > coalesce(sum(a.amount), 0) order by i.invoice_date, i.id limit 200`,
        ['number', 'date', 'due', 'open'],
      )
    },
    /** A journal entry, an invoice, a receipt, a bill, or the end of a period. */
    post(context, document) {
      const { kind } = (document ?? {}) as DeskDocument
      const shape = Object.hasOwn(shapes, kind ?? '') ? shapes[kind] : undefined
      if (!shape?.isValidSync((document as Record<string, unknown>)[kind], { strict: true }))
        throw new SourceError('The document is not complete; fill in what is missing and post it again.')
      return engine.write(context, document)
    },
  }
}
