import type { PGlite } from '@electric-sql/pglite'

/**
 * The role under which the company desk posts: it can read the company, add documents and journals, take goods from stock, and nothing
 * else.
 */
export const deskRole = 'estante_desk'

/** Tables that the desk adds records to. */
const written = [
  'journals',
  'journal_lines',
  'invoices',
  'invoice_lines',
  'invoice_taxes',
  'stock_movements',
  'receipts',
  'applications',
  'supplier_bills',
  'supplier_bill_lines',
]

/** Makes the desk's role, or brings its rights up to date. */
export async function secureDesk(db: PGlite, schema: string): Promise<void> {
  const name = `"${schema.replaceAll('"', '""')}"`
  const known = await db.query('select 1 from pg_roles where rolname = $1', [deskRole])
  if (!known.rows.length) await db.exec(`create role ${deskRole} nologin`)
  await db.exec(
    `grant usage on schema ${name} to ${deskRole}; grant select on all tables in schema ${name} to ${deskRole}; grant insert on
      ${written.map(table => `${name}.${table}`).join(', ')} to ${deskRole}; grant update (on_hand) on ${name}.stock_levels to
      ${deskRole}; grant update (closed_on) on ${name}.fiscal_periods to ${deskRole};`,
  )
}
