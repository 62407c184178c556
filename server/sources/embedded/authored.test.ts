import { EmbeddedEngine } from './engine'
import { workerFile } from '../../root'
import { companyFolder, schema as sourceSchema } from '../../../demo/source'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { valueAt } from '../../../core/value/columns'
import type { Query } from '../../../core/sql/query'
import { demoData, tester } from '../../../tests/support'

/** A text as the planner embeds it. */
const embedded = (text: string, column = 'x'): Query => ({
  text: `select "${column}"::text from (select row_number() over () as "row", "@t".* from (${text}\n) as "@t") as "level"`,
  values: [],
  columns: [{ path: column, type: 'text' }],
  authored: true,
})
/** A text that is run with nothing around it: what a text that breaks out of its parentheses would become. */
const bare = (text: string): Query => ({ text, values: [], columns: [{ path: 'x', type: 'text' }], authored: true })

let engine: EmbeddedEngine
let folder: string
beforeAll(async () => {
  folder = companyFolder(demoData())
  engine = new EmbeddedEngine({ folder, schema: sourceSchema, thread: workerFile('demo') })
  await engine.open()
})
afterAll(() => engine.close())

const facts = async () => {
  const rows = await engine.query(tester, {
    text: `select (select count(*) from "company"."invoices")::text || '/' || current_user || '/' || session_user`,
    values: [],
    columns: [{ path: 'x', type: 'text' }],
  })
  const { tables } = await engine.catalog(tester)
  return `${String(valueAt(rows.columns[0]!, 0))}/${tables.map(table => table.name).join(',')}`
}

const attacks: [string, string][] = [
  ['a second statement', 'select 1 as x; delete from invoices'],
  ['the end of the transaction', 'commit; delete from invoices'],
  ['another role', 'reset role'],
  ['another role inside', 'select 1 as x; reset role; select 1 as x'],
  ['its own settings', "select set_config('role', 'postgres', false) as x"],
  [
    'settings, then a text run as a query',
    "select set_config('transaction_read_only', 'off', true), query_to_xml('delete from company.invoices returning 1', true, true, " +
      "'') as x",
  ],
  ['a text run as a query', "select query_to_xml('select 1', true, true, '')::text as x"],
  ['a whole schema as text', "select schema_to_xml('company', true, true, '')::text as x"],
  ['a text run for statistics', "select word as x from ts_stat('select to_tsvector(name) from company.customers')"],
  ['a text run for rewriting', "select ts_rewrite('a'::tsquery, 'select 1')::text as x"],
  ['a write in a with clause', 'with gone as (delete from company.invoices returning 1) select 1 as x from gone'],
  ['a table made by a select', 'select 1 as x into company.made'],
  ['a lock on rows', 'select id as x from company.invoices for update'],
  ['code', 'do $$ begin delete from company.invoices; end $$'],
  ['a program', "copy (select 1) to program 'touch /tmp/estante-attack'"],
  ['a file written', "copy company.invoices to '/tmp/estante-attack'"],
  ['a file read', "select pg_read_file('/etc/passwd') as x"],
  ['a folder read', "select pg_ls_dir('.') as x"],
  ['a large object', 'select lo_create(0)::text as x'],
  ['a large object from bytes', "select lo_from_bytea(0, '\\x00')::text as x"],
  ['a closed parenthesis', 'select 1 as x) as t; drop table company.invoices; select * from (select 1 as x'],
  ['a comment that hides the end', 'select 1 as x from company.nowhere --'],
  ['an open comment', 'select 1 as x /*'],
  ['an open text', "select 'x as x"],
  ['an open dollar text', 'select $a$ as x'],
  ['another schema', 'select * from information_schema.sql_features, public.anything'],
  ['passwords', 'select rolpassword as x from pg_authid'],
  ['locks that stay', 'select pg_advisory_lock(1)::text as x'],
  ['shared locks that stay', 'select pg_try_advisory_lock_shared(1)::text as x'],
  ['roles', 'select rolname as x from pg_roles'],
  ['settings', 'select setting as x from pg_settings'],
  ['one setting', "select current_setting('data_directory') as x"],
  ['all settings', 'select name as x from pg_show_all_settings()'],
  ['the control file', 'select checkpoint_lsn::text as x from pg_control_checkpoint()'],
  ['statistics', 'select relname as x from pg_stat_user_tables'],
  ['values by their statistics', 'select most_common_vals::text as x from pg_stats'],
  ['tables of other schemas', 'select relname as x from pg_class'],
  ['columns of other schemas', 'select column_name as x from information_schema.columns'],
  ['functions', 'select prosrc as x from pg_proc'],
  ['sleep', 'select pg_sleep(5)::text as x'],
  ['a listener', 'listen x'],
  ['a message', "select pg_notify('x', 'y')::text as x"],
  ['a vacuum', 'vacuum'],
  ['a prepared statement', 'prepare p as select 1'],
  ['an open cursor', 'close all'],
  ['discarding', 'discard all'],
  ['a sequence', "select nextval('company.s')::text as x"],
  ['a function of its own', "create function pg_temp.f() returns int language sql as 'select 1'"],
  ['a temporary table', 'create temp table t (a int)'],
  ['a setting', 'set statement_timeout to 1'],
]

describe('a text of an author’s', () => {
  it.each(attacks)('cannot use %s, whether embedded or bare', async (_, text) => {
    const before = await facts()
    for (const query of [embedded(text), bare(text)]) {
      await expect(engine.query(tester, query)).rejects.toThrow('The source answered: ')
      expect(await facts()).toBe(before)
    }
  })

  it('runs where it only reads, in pages, with names without their schema', async () => {
    const rows = await engine.query(tester, embedded('select number as x from invoices order by number -- all of them'))
    const plain = await engine.query(tester, {
      text: 'select number from "company"."invoices" order by number',
      values: [],
      columns: [{ path: 'x', type: 'text' }],
    })
    expect(rows.count).toBe(plain.count)
    expect(rows.columns[0]).toEqual(plain.columns[0])
    expect((await engine.query(tester, embedded('select n::text as x from generate_series(1, 12345) as n'))).count).toBe(12345)
    expect((await engine.query(tester, embedded("select 'a' as x where false"))).count).toBe(0)
    await expect(
      engine.query(tester, embedded('select n::text as x from generate_series(1, 30000) as n'), { rowLimit: 10000 }),
    ).rejects.toThrow('more than 10,000 rows')
  })

  it('is described without being run, and an error points at its place', async () => {
    expect(
      await engine.describe(tester, "select number, invoice_date as day, total, id, kind = 'invoice' as plain, 1.5 as free from invoices"),
    ).toEqual([
      { name: 'number', type: 'text', databaseType: 'text' },
      { name: 'day', type: 'date', databaseType: 'date' },
      { name: 'total', type: 'number', scale: 2, databaseType: 'numeric(14,2)' },
      { name: 'id', type: 'number', scale: 0, databaseType: 'integer' },
      { name: 'plain', type: 'boolean', databaseType: 'boolean' },
      { name: 'free', type: 'number', databaseType: 'numeric' },
    ])
    const text = 'select number, totl from invoices'
    const fault = (await engine.describe(tester, text).catch((error: { position?: number }) => error)) as {
      position?: number
      message: string
    }
    expect(fault.message).toContain('totl')
    expect(text.slice(fault.position! - 1)).toMatch(/^totl/)
    await expect(engine.describe(tester, 'delete from invoices; select 1')).rejects.toThrow('multiple commands')
  })
})
