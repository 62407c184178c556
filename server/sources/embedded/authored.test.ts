import { EmbeddedEngine } from './engine'
import { workerFile } from '../../root'
import { companyFolder, schema as sourceSchema } from '../../../demo/source'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { valueAt } from '../../../core/value/columns'
import type { Query } from '../../../core/sql/query'
import { attacks } from '../../../tests/attacks'
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
