import type { EmbeddedEngine } from './engine'
import { companyEngine, schema as sourceSchema } from '../../../demo/source'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Query } from '../../../core/sql/query'
import { valueAt } from '../../../core/value/columns'
import { type Decimal, decimalText } from '../../../core/value/decimal'
import { demoData, demoDatabase, tester } from '../../../tests/support'

const query = (text: string, columns: Query['columns'] = [{ path: 'x', type: 'number', scale: 0 }], values: unknown[] = []): Query => ({
  text,
  values,
  columns,
})
const slow = query('select count(*) as x from generate_series(1, 400000000) as n')
const quick = (value: number) => query(`select ${value} as x`)

let engine: EmbeddedEngine
beforeAll(async () => {
  engine = companyEngine(demoData())
  await engine.open()
})
afterAll(() => engine.close())

describe('reading', () => {
  it('gives exactly what the plain interface gives, for every table and type', async () => {
    const { db, catalog } = await demoDatabase()
    for (const table of catalog.tables) {
      const columns = table.columns.map(column => ({
        path: column.name,
        type: column.type,
        ...(column.scale === undefined ? {} : { scale: column.scale }),
      }))
      const text = `select ${table.columns.map(column => `"${column.name}"`).join(', ')} from "${sourceSchema}"."${table.name}"
        order by ${table.primaryKey.map(key => `"${table.name}"."${key}"`).join(', ')}`
      const ours = await engine.query(tester, query(text, columns))
      const plain = await db.query<(string | null)[]>(
        `select ${table.columns.map(column => `"${column.name}"::text`).join(', ')} from "${sourceSchema}"."${table.name}" order by
          ${table.primaryKey.map(key => `"${table.name}"."${key}"`).join(', ')}`,
        [],
        { rowMode: 'array' },
      )
      expect(ours.count).toBe(plain.rows.length)
      const { dayText } = await import('../../../core/value/date')
      table.columns.forEach((column, index) => {
        const got = Array.from({ length: ours.count }, (_, row) => {
          const value = valueAt(ours.columns[index]!, row)
          return value === null
            ? null
            : column.type === 'number'
              ? decimalText(value as Decimal)
              : column.type === 'date'
                ? dayText(value as number)
                : column.type === 'boolean'
                  ? String(value)
                  : value
        })
        expect(got, `${table.name}.${column.name}`).toEqual(plain.rows.map(row => row[index]))
      })
    }
  })
  it('keeps numbers beyond the safe integers exact, and numbers without declared digits', async () => {
    const rows = await engine.query(
      tester,
      query('select * from (values (12345678901234567.89::numeric, 1.5::numeric), (-0.01, 2.125), (null, null)) as v', [
        { path: 'a', type: 'number', scale: 2 },
        { path: 'b', type: 'number' },
      ]),
    )
    expect(
      [0, 1, 2].map(row =>
        rows.columns.map(column => (value => (value === null ? null : decimalText(value as Decimal)))(valueAt(column, row))),
      ),
    ).toEqual([
      ['12345678901234567.89', '1.500'],
      ['-0.01', '2.125'],
      [null, null],
    ])
  })
  it('reads the catalog: keys, foreign keys, comments, estimates', async () => {
    const catalog = await engine.catalog(tester)
    const lines = catalog.tables.find(table => table.name === 'invoice_lines')!
    expect(lines).toMatchObject({ primaryKey: ['invoice_id', 'line_no'], comment: 'Lines of invoices and credit notes' })
    expect(lines.rowEstimate).toBeGreaterThan(9000)
    expect(lines.columns.find(column => column.name === 'amount')).toMatchObject({
      type: 'number',
      scale: 2,
      databaseType: 'numeric(14,2)',
      required: false,
    })
    expect(catalog.foreignKeys).toContainEqual({
      name: 'journals_fiscal_year_id_period_number_fkey',
      from: { table: 'journals', columns: ['fiscal_year_id', 'period_number'] },
      to: { table: 'fiscal_periods', columns: ['fiscal_year_id', 'number'] },
    })
  })
})

describe('safety', () => {
  it.each([
    ['a write', 'delete from company.invoices', /permission denied|read-only/],
    ['two statements', 'select 1; select 2', /multiple commands/],
    ['another schema', 'create table public.x (a int)', /permission denied|read-only/],
    ['the files of the machine', "select pg_read_file('/etc/passwd')", /permission denied/],
    ['a table that is gone', 'select * from company.nowhere', /does not exist/],
  ])('refuses %s with a sentence, and goes on', async (_, text, sentence) => {
    await expect(engine.query(tester, query(text))).rejects.toThrow(sentence)
    expect((await engine.query(tester, quick(7))).count).toBe(1)
  })
  it('says that a limit is reached instead of cutting rows off', async () => {
    await expect(engine.query(tester, query('select n as x from generate_series(1, 30000) as n'), { rowLimit: 10000 })).rejects.toThrow(
      'The statement gives more than 10,000 rows; narrow it with a filter.',
    )
  })
})

describe('an answer that is none', () => {
  it.each([
    ['1,200 signs', `select 1 as x from company.currencies where ${'not ('.repeat(1200)}true${')'.repeat(1200)}`],
    ['30,000 brackets', `select ${'('.repeat(30_000)}1${')'.repeat(30_000)} as x`],
    ['a sum of 60,000 numbers', `select ${Array(60_000).fill('1').join('+')} as x`],
  ])('a statement too deep for the engine gives its rows or an error, never nothing: %s', async (_, text) => {
    const rows = await engine.query(tester, query(text)).then(
      found => found.count,
      (error: Error) => error.message,
    )
    if (typeof rows === 'number') expect(rows).toBeGreaterThan(0)
    else expect(rows).toMatch(/broke off|stack depth|memory exhausted/)
    expect((await engine.query(tester, quick(7))).count).toBe(1)
  })
  it('a value that cannot be kept exactly is told with its column and row', async () => {
    const columns: Query['columns'] = [{ path: 'rate', type: 'number', scale: 2 }]
    await expect(engine.query(tester, query("values (1.5::numeric), ('NaN')", columns))).rejects.toThrow(
      'The column “rate” holds “NaN” in row 2, which is no number that can be kept exactly; correct it in the source, or leave such rows ' +
        'out with a filter.',
    )
    await expect(engine.query(tester, query("values ('infinity'::date)", [{ path: 'day', type: 'date' }]))).rejects.toThrow(
      /“infinity” in row 1/,
    )
  })
})

describe('the queue', () => {
  it('a slow query keeps neither this thread nor its timers waiting', async () => {
    const stop = new AbortController()
    let ended = false
    const running = engine
      .query(tester, slow, { signal: stop.signal })
      .catch((error: Error) => error.message)
      .finally(() => (ended = true))
    // the statement takes minutes: that this thread comes to count at all shows that it is not kept waiting
    for (let beat = 0; beat < 60; beat++) await new Promise(resolve => setTimeout(resolve, 10))
    expect(ended).toBe(false)
    stop.abort(new Error('enough'))
    expect(await running).toBe('enough')
  })
  it('one that is cancelled while its rows come ends between them; the engine is not opened anew', async () => {
    const thread = () => (engine as unknown as { worker: object }).worker
    await engine.query(tester, quick(1))
    const before = thread()
    const stop = new AbortController()
    let parts = 0
    const many = query('select generate_series(1, 20000000) as x')
    const onPart = () => ++parts === 3 && stop.abort(new Error('enough'))
    expect(await engine.query(tester, many, { signal: stop.signal, onPart }).catch((error: Error) => error.message)).toBe('enough')
    const next = await engine.query(tester, quick(7))
    expect(decimalText(valueAt(next.columns[0]!, 0) as Decimal)).toBe('7')
    expect(thread()).toBe(before)
    // of 4,000 parts
    expect(parts).toBeLessThan(400)
  })
  it('one that is cancelled and does not end is ended with its thread, and the others are answered by the next', async () => {
    const thread = () => (engine as unknown as { worker: object }).worker
    const before = thread()
    const stop = new AbortController()
    const stopped = engine.query(tester, slow, { signal: stop.signal }).catch((error: Error) => error.message)
    const next = engine.query(tester, quick(8), { task: 'b' })
    setTimeout(() => stop.abort(new Error('enough')), 100)
    expect(await stopped).toBe('enough')
    expect(decimalText(valueAt((await next).columns[0]!, 0) as Decimal)).toBe('8')
    expect(thread()).not.toBe(before)
  })
  it('stops at its time limit with a sentence; queries waiting beside it are answered unasked', async () => {
    const stopped = engine.query(tester, slow, { task: 'a', timeLimit: 600 }).catch((error: Error) => error.message)
    const waiting = [1, 2, 3].map(value => engine.query(tester, quick(value), { task: `b${value}` }))
    expect(await stopped).toBe('The query took longer than 1 seconds and was stopped; narrow it with a filter.')
    expect((await Promise.all(waiting)).map(rows => decimalText(valueAt(rows.columns[0]!, 0) as Decimal))).toEqual(['1', '2', '3'])
  })
  it('a query cancelled while it waits never runs', async () => {
    const stop = new AbortController()
    const first = engine.query(tester, query('select count(*) as x from generate_series(1, 3000000) as n'))
    const second = engine.query(tester, quick(2), { signal: stop.signal }).catch((error: Error) => error.message)
    stop.abort(new Error('not needed'))
    expect(await second).toBe('not needed')
    expect((await first).count).toBe(1)
  })
  it('clients take turns: one with many queries does not keep another waiting', async () => {
    const order: string[] = []
    const many = Array.from({ length: 6 }, (_, index) =>
      engine.query(tester, quick(index), { task: 'many' }).then(() => order.push('many')),
    )
    const one = engine.query(tester, quick(9), { task: 'one' }).then(() => order.push('one'))
    await Promise.all([...many, one])
    expect(order.indexOf('one')).toBeLessThanOrEqual(2)
  })
})
