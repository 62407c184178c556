import type { PGlite } from '@electric-sql/pglite'

/** Columns that the company has gained since some folder with it was made: they are added there, and stay empty. */
export async function renewDemo(db: PGlite, schema: string): Promise<void> {
  const name = `"${schema.replaceAll('"', '""')}"`
  await db.exec(
    `alter table ${name}.customers add column if not exists email text; alter table ${name}.suppliers add column if not exists email
      text; alter table ${name}.fiscal_periods add column if not exists closed_on date;`,
  )
}
