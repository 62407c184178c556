import type { PGlite } from '@electric-sql/pglite'
import { sql } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import { dayOf } from '../../core/value/date'
import { writeBooks } from './books'
import { chartOfAccounts, Ledger } from './ledger'
import { clock, firstDay, writeMasters } from './masters'
import { categoryPicture } from './pictures'
import { Purchasing } from './purchasing'
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
    if (!found) rows.set(name, (found = new TableText()))
    return found
  }
  for (const match of tables.matchAll(/create table (\w+)/g)) table(match[1]!)
  const chance = new Chance(20261031)
  const masters = writeMasters(chance, scale, table)
  const ledger = new Ledger(table, firstDay, clock)
  const sales = new Sales(chance, masters, ledger, table)
  sales.write(Math.round(invoicesPerScale * scale))
  ledger.post(
    dayOf(2026, 3, 31),
    'manual',
    null,
    'Prior-year adjustment of discounts accrued',
    [
      { account: '4950', branch: 1, department: 1, amount: 184250 },
      { account: '2390', branch: 1, amount: -184250 },
    ],
    'adjustment',
  )
  new Purchasing(masters, ledger, table, scale).write(sales.shipments, sales.orderCount)
  writeBooks(ledger, table, scale)
  return rows
}

const dialect = new PgDialect()
const quoted = (name: string) => dialect.sqlToQuery(sql`${sql.identifier(name)}`).sql
const literal = (text: string) => `'${text.replaceAll("'", "''")}'`

/** Tables that later parts of the company add rows to. */
const grown = ['accounts', 'journals', 'journal_lines', 'orders', 'order_lines']

/** Adds to an older demo company what has come since; nothing that is in it changes. */
async function bringUpToDate(db: PGlite, schema: string): Promise<void> {
  const has = async (table: string, column: string) =>
    (
      await db.query('select 1 from information_schema.columns where table_schema = $1 and table_name = $2 and column_name = $3', [
        schema,
        table,
        column,
      ])
    ).rows.length > 0
  if (!(await has('item_categories', 'picture'))) {
    const table = `${quoted(schema)}.item_categories`
    const roots = (await db.query<{ id: number; root: number }>(`select id, coalesce(parent_id, id) as root from ${table}`)).rows
    await db.exec(
      `begin; alter table ${table} add column picture text;
        ${roots
          .map(
            ({ id, root }) => `update ${table} set picture = ${literal(categoryPicture(root))} where id =
          ${id};`,
          )
          .join(' ')} comment on column ${table}.picture is ${literal(comments['item_categories.picture']!)}; commit`,
    )
  }
  if (!(await has('items', 'cost'))) {
    const items = `${quoted(schema)}.items`
    await db.exec(
      `begin; alter table ${items} add column cost numeric(12,2); update ${items} set cost = round(price * (48 + id * 7 % 29) /
        100, 2); comment on column ${items}.cost is ${literal(comments['items.cost']!)}; commit`,
    )
  }
  const flat = !(await has('accounts', 'parent_code'))
  if (flat)
    await db.exec(
      `alter table ${quoted(schema)}.accounts add column parent_code text references ${quoted(schema)}.accounts; comment on column
        ${quoted(schema)}.accounts.parent_code is ${literal(comments['accounts.parent_code']!)}`,
    )
  if (!(await has('supplier_bills', 'id')) || !(await has('budgets', 'version'))) await addWhatCame(db, schema)
  if (flat) await growTree(db, schema)
}

/** Headings of the tree of accounts, and what stands under them. */
async function growTree(db: PGlite, schema: string): Promise<void> {
  const table = `${quoted(schema)}.accounts`
  await db.transaction(async transaction => {
    for (const { code, rest } of chartOfAccounts)
      await transaction.query(`insert into ${table} values ($1, $2, $3, $4, $5, null) on conflict (code) do nothing`, [code, ...rest])
    for (const { code, parent } of chartOfAccounts)
      if (parent) await transaction.query(`update ${table} set parent_code = $2 where code = $1`, [code, parent])
  })
}

/**
 * Purchasing came after sales, and the rest of the books after that. Rows of tables that were there already are left as they are; new
 * accounts, journals and orders come beside them.
 */
async function addWhatCame(db: PGlite, schema: string): Promise<void> {
  const {
    rows: [size],
  } = await db.query<{ scale: number }>(
    `select count(*)::float8 / ${invoicesPerScale} as scale from ${quoted(schema)}.invoices where kind = 'invoice'`,
  )
  const known = await db.query<{ name: string }>('select table_name as name from information_schema.tables where table_schema = $1', [
    schema,
  ])
  const names = new Set(known.rows.map(row => row.name))
  await db.transaction(async transaction => {
    await transaction.exec(`set local search_path to ${quoted(schema)}`)
    const [made, references] = unlinked(name => !names.has(name))
    await transaction.exec(made)
    for (const [name, text] of demoRows(size!.scale)) {
      if (!names.has(name)) await transaction.query(`copy ${quoted(name)} from '/dev/blob'`, [], { blob: text.blob() })
      else if (grown.includes(name)) {
        await transaction.exec(`create temp table came (like ${quoted(name)}) on commit drop`)
        await transaction.query("copy came from '/dev/blob'", [], { blob: text.blob() })
        await transaction.exec(`insert into ${quoted(name)} select * from came on conflict do nothing; drop table came`)
      }
    }
    await transaction.exec(references)
    await transaction.exec(
      indexes
        .split(/(?<=;)\n/)
        .filter(line => !names.has(/on (\w+)/.exec(line)?.[1] ?? ''))
        .join('\n'),
    )
    await comment(transaction, name => !names.has(name))
  })
  await db.exec('analyze')
}

/** Statements that make some tables without their foreign keys, and those that add these: faster, and checked all the same. */
function unlinked(wanted: (table: string) => boolean): [string, string] {
  const references: string[] = []
  const made = [...tables.matchAll(/create table (\w+) [\s\S]*?;\n/g)]
    .filter(match => wanted(match[1]!))
    .map(([statement, table]) =>
      statement
        .replace(/,?\s*foreign\s+key\s+\(([^)]*)\)\s+references\s+(\w+)/g, (_, columns: string, target: string) => {
          references.push(`alter table ${table} add foreign key (${columns}) references ${target};`)
          return ''
        })
        .replace(/(\w+)\s+([\w()]+(?:\s+not\s+null)?)\s+references\s+(\w+)/g, (_, column: string, type: string, target: string) => {
          references.push(`alter table ${table} add foreign key (${column}) references ${target};`)
          return `${column} ${type}`
        }),
    )
  return [made.join('\n'), references.join('\n')]
}

/** Says of tables and columns what they mean. */
export async function comment(db: { exec: (text: string) => Promise<unknown> }, wanted: (table: string) => boolean): Promise<void> {
  for (const [name, text] of Object.entries(comments)) {
    const [table, column] = name.split('.')
    if (wanted(table!))
      await db.exec(
        column
          ? `comment on column ${quoted(table!)}.${quoted(column)} is ${literal(text)}`
          : `comment on table ${quoted(table!)} is ${literal(text)}`,
      )
  }
}

/** What makes the company, in its order: statements, and tables filled with rows in COPY's text format. */
export function* companyParts(schema: string, scale: number): Generator<{ statement: string } | { table: string; rows: TableText }> {
  yield { statement: `create schema ${quoted(schema)}; set local search_path to ${quoted(schema)};` }
  const [made, references] = unlinked(() => true)
  yield { statement: made }
  for (const [table, rows] of demoRows(scale)) yield { table, rows }
  yield { statement: references }
  yield { statement: indexes }
}

/** Creates the company's schema and fills it by COPY, in one transaction, unless it is there already. */
export async function fillDemo(db: PGlite, schema: string, scale: number): Promise<void> {
  const found = await db.query('select 1 from pg_namespace where nspname = $1', [schema])
  if (found.rows.length) return bringUpToDate(db, schema)
  await db.transaction(async transaction => {
    for (const part of companyParts(schema, scale))
      if ('statement' in part) await transaction.exec(part.statement)
      else await transaction.query(`copy ${quoted(part.table)} from '/dev/blob'`, [], { blob: part.rows.blob() })
    await comment(transaction, () => true)
  })
  await db.exec('analyze')
}
