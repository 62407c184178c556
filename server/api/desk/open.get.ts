import { sql } from 'drizzle-orm'

/** Open invoices of a customer in a branch, oldest first. */
export default route(async (event, app) => {
  const { customer, branch } = getQuery(event)
  if (typeof customer !== 'string' || typeof branch !== 'string')
    throw createError({ statusCode: 400, message: 'The request is not complete.' })
  const table = deskTable
  return deskRows(
    app,
    sql`select i.number, i.invoice_date::text as date, coalesce(i.due_date::text, '') as due, (i.total - coalesce(sum(a.amount),
      0))::text as open from ${table('invoices')} i join ${table('customers')} c on c.id = i.customer_id join ${table('branches')}
      b on b.id = i.branch_id left join ${table('applications')} a on a.invoice_id = i.id
    where i.kind = 'invoice' and c.code = ${customer} and b.code = ${branch} group by i.id, i.number, i.invoice_date, i.due_date,
    i.total having i.total > coalesce(sum(a.amount), 0) order by i.invoice_date, i.id limit 200`,
    ['number', 'date', 'due', 'open'],
  )
})
