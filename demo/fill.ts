import type { PGlite } from '@electric-sql/pglite'
import { sql } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import { dayOf } from '../core/value/date'
import { Ledger } from './ledger'
import { clock, firstDay, writeMasters } from './masters'
import { categoryPicture } from './pictures'
import { Chance, TableText } from './random'
import { Sales } from './sales'
import { comments, indexes, tables } from './tables'

/** Invoices at scale 1; scale 40 is the benchmark's size. */
const invoicesPerScale = 2500

/** All rows of the demo company, by table, in an order that satisfies its foreign keys. */
export function demoRows(scale: number): Map<string, TableText> {
  const rows = new Map<string, TableText>()
  const table = (name: string) => {
    let found = rows.get(name)
    if (!found) rows.set(name, found = new TableText())
    return found
  }
  for (const match of tables.matchAll(/create table (\w+)/g)) table(match[1]!)
  const chance = new Chance(20261031)
  const masters = writeMasters(chance, scale, table)
  const ledger = new Ledger(table, firstDay, clock)
  new Sales(chance, masters, ledger, table).write(Math.round(invoicesPerScale * scale))
  ledger.post(dayOf(2026, 3, 31), 'manual', null, 'Prior-year adjustment of discounts accrued', [{ account: '4950', branch: 1, department: 1, amount: 184250 }, { account: '2390', branch: 1, amount: -184250 }], true)
  return rows
}

const dialect = new PgDialect()
const quoted = (name: string) => dialect.sqlToQuery(sql`${sql.identifier(name)}`).sql
const literal = (text: string) => `'${text.replaceAll('\'', '\'\'')}'`

/** Adds to an older demo company what has come since; nothing that is in it changes. */
async function bringUpToDate(db: PGlite, schema: string): Promise<void> {
  const items = `${quoted(schema)}.items`
  const pictured = await db.query('select 1 from information_schema.columns where table_schema = $1 and table_name = \'item_categories\' and column_name = \'picture\'', [schema])
  if (!pictured.rows.length) {
    const table = `${quoted(schema)}.item_categories`
    const roots = (await db.query<{ id: number, root: number }>(`select id, coalesce(parent_id, id) as root from ${table}`)).rows
    await db.exec(`begin; alter table ${table} add column picture text; ${roots.map(({ id, root }) => `update ${table} set picture = ${literal(categoryPicture(root))} where id = ${id};`).join(' ')} comment on column ${table}.picture is ${literal(comments['item_categories.picture']!)}; commit`)
  }
  const known = await db.query('select 1 from information_schema.columns where table_schema = $1 and table_name = \'items\' and column_name = \'cost\'', [schema])
  if (known.rows.length) return
  await db.exec(`begin; alter table ${items} add column cost numeric(12,2); update ${items} set cost = round(price * (48 + id * 7 % 29) / 100, 2); comment on column ${items}.cost is ${literal(comments['items.cost']!)}; commit`)
}

/** Creates the company's schema and fills it by COPY, in one transaction, unless it is there already. */
export async function fillDemo(db: PGlite, schema: string, scale: number): Promise<void> {
  const found = await db.query('select 1 from pg_namespace where nspname = $1', [schema])
  if (found.rows.length) return bringUpToDate(db, schema)
  const rows = demoRows(scale)
  await db.transaction(async (transaction) => {
    await transaction.exec(`create schema ${quoted(schema)}; set local search_path to ${quoted(schema)};`)
    // foreign keys are added once the rows are in, which is faster and checks them all the same
    const references: string[] = []
    await transaction.exec(tables.replace(/create table (\w+)[\s\S]*?;\n/g, (statement, table: string) => {
      const plain = statement.replace(/,?\s*foreign key \(([^)]*)\) references (\w+)/g, (_, columns: string, target: string) => {
        references.push(`alter table ${table} add foreign key (${columns}) references ${target};`)
        return ''
      })
      return plain.replace(/(\w+) ([\w()]+(?: not null)?) references (\w+)/g, (_, column: string, type: string, target: string) => {
        references.push(`alter table ${table} add foreign key (${column}) references ${target};`)
        return `${column} ${type}`
      })
    }))
    for (const [name, text] of rows) await transaction.query(`copy ${quoted(name)} from '/dev/blob'`, [], { blob: text.blob() })
    await transaction.exec(references.join('\n'))
    await transaction.exec(indexes)
    for (const [name, comment] of Object.entries(comments)) {
      const [table, column] = name.split('.')
      await transaction.exec(column ? `comment on column ${quoted(table!)}.${quoted(column)} is ${literal(comment)}` : `comment on table ${quoted(table!)} is ${literal(comment)}`)
    }
  })
  await db.exec('analyze')
}
