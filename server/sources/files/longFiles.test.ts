import { ownContext } from '../../access/context'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { valueAt } from '../../../core/value/columns'
import { temporaryFolder, tester } from '../../../tests/support'
import { type Estante, openEstante } from '../../estante'

let app: Estante
const folder = temporaryFolder()
beforeAll(async () => {
  process.env.ESTANTE_DEMO = 'off'
  app = await openEstante({ folder: temporaryFolder() })
}, 60_000)
afterAll(async () => {
  delete process.env.ESTANTE_DEMO
  await app.close()
})

const count = 24_000
/** What a row says that stands after those by which a file is understood at first. */
const late = 23_456
type Row = { code: string; amount: string; day: string }
const row = (at: number): Row => ({
  code: String(at + 1),
  amount: (((at * 37) % 9999) / 100).toFixed(2),
  day: `2026-0${(at % 9) + 1}-1${at % 10}`,
})

/** A long file, one row of which is another; and what the table of it holds, with its types. */
async function taken(name: string, change: Partial<Row>): Promise<{ types: string[]; key: string[]; rows: string[] }> {
  const rows = Array.from({ length: count }, (_, at) => (at === late ? { ...row(at), ...change } : row(at)))
  const path = join(folder, `${name}.csv`)
  writeFileSync(path, `code,amount,day\n${rows.map(each => `${each.code},${each.amount},${each.day}`).join('\n')}\n`)
  const { id, tables } = await app.addFiles(tester, name, [{ path, name: 'long.csv' }])
  const { catalog } = await app.sources.catalog(ownContext, id)
  const found = await app.sources.reading(tester, id, snapshot =>
    snapshot.query({
      text: 'select concat_ws(\',\', code, amount, day) as "line" from "data"."long" order by ctid',
      values: [],
      columns: [{ path: 'line', type: 'text' }],
    }),
  )
  const held = Array.from({ length: found.count }, (_, at) => String(valueAt(found.columns[0]!, at)))
  const own = catalog.tables[0]!.columns.filter(each => !each.name.endsWith('_line'))
  await app.putSourceAway(tester, id)
  return { types: own.map(each => each.databaseType.replace(/\(.*,/, '(…,')), key: tables[0]!.key, rows: held }
}
const lines = (change: Partial<Row>, pad = (text: string) => text) =>
  Array.from({ length: count }, (_, at) => {
    const each = at === late ? { ...row(at), ...change } : row(at)
    return [each.code, pad(each.amount), each.day].join(',')
  })

describe('a long file is taken in as all of its rows say', () => {
  it.each([
    ['all alike', {}, ['integer', 'numeric(…,2)', 'date'], ['code']],
    ['a text among numbers', { amount: 'open' }, ['integer', 'text', 'date'], ['code']],
    ['a time among dates', { day: '2026-01-01 10:30:00' }, ['integer', 'numeric(…,2)', 'timestamp without time zone'], ['code']],
    ['a code among numbers', { code: '007' }, ['text', 'numeric(…,2)', 'date'], ['code']],
    ['a larger whole number', { code: '123456789012' }, ['bigint', 'numeric(…,2)', 'date'], ['code']],
    ['more digits than there is room for', { amount: '12345678901234567890.25' }, ['integer', 'numeric(…,2)', 'date'], ['code']],
    ['a value that is there twice', { code: '7' }, ['integer', 'numeric(…,2)', 'date'], ['long_line']],
  ] as const)('%s', async (name, change, types, key) => {
    const found = await taken(name, change)
    expect(found.types.map(each => (each === 'timestamp' ? 'timestamp without time zone' : each))).toEqual(types)
    expect(found.key).toEqual(key)
    const day = (text: string) => (types[2] === 'date' ? text : text.replace(/-(\d\d)$/, '-$1 00:00:00'))
    expect(found.rows).toEqual(lines(change).map(day))
  })

  it('more decimals', async () => {
    const found = await taken('more decimals', { amount: '0.12345' })
    expect(found.types[1]).toBe('numeric(…,5)')
    expect(found.rows).toEqual(lines({ amount: '0.12345' }, text => (text === '0.12345' ? text : `${text}000`)))
  })

  it('what fits no column ends it with its line, and leaves nothing', async () => {
    const path = join(folder, 'ragged.csv')
    const rows = Array.from({ length: count }, (_, at) => `${at},${at === late ? '1,2' : '1'}`)
    writeFileSync(path, `code,amount\n${rows.join('\n')}\n`)
    await expect(app.addFiles(tester, 'Ragged', [{ path, name: 'ragged.csv' }])).rejects.toThrow(
      `Line ${(late + 2).toLocaleString('en')} of “ragged.csv” has 3 cells where there are 2 columns`,
    )
    expect(app.sources.list()).toEqual([])
  })
})
