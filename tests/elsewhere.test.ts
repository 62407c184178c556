import { ownContext } from '../server/access/context'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { stringify } from 'csv-stringify/sync'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { arrayText } from '../core/catalog/dialect'
import { findTable } from '../core/catalog/types'
import type { ReportDefinition } from '../core/definition/report'
import type { ElsewhereTable } from '../core/definition/tables'
import { listOfTable } from '../core/templates/draft'
import { parseDay } from '../core/value/date'
import { valueAt } from '../core/value/columns'
import { type Estante, openEstante } from '../server/estante'
import { mostElsewhere } from '../server/runs/elsewhere'
import { checkSource } from '../server/sources/checkSource'
import { schema } from '../demo/source'
import { askCompany, demoData, temporaryFolder, tester } from './support'

let app: Estante
let books: string
const folder = temporaryFolder()
interface Budget {
  code: string
  amount: string
  note: string
  since: string
}
let budgets: Budget[]
let customers: { code: string; name: string }[]

/** More rows than go along; some are of a customer, and by `every` all are. */
const many = () =>
  Array.from({ length: mostElsewhere + 1 }, (_, at) => ({
    n: at,
    code: at % 97 ? `X-${at}` : customers[(at / 97) % customers.length]!.code,
    amount: `${at % 1000}.${String(at % 100).padStart(2, '0')}`,
    every: customers[at % customers.length]!.code,
  }))
const file = (name: string, text: string) => {
  mkdirSync(join(folder, 'given'), { recursive: true })
  const path = join(folder, 'given', name)
  writeFileSync(path, text)
  return { path, name }
}
beforeAll(async () => {
  app = await openEstante({ folder: demoData() })
  const found = await askCompany(app, {
    text: `select code, name from ${schema}.customers order by code`,
    values: [],
    columns: [
      { path: 'code', type: 'text' },
      { path: 'name', type: 'text' },
    ],
  })
  customers = Array.from({ length: found.count }, (_, row) => ({
    code: valueAt(found.columns[0]!, row) as string,
    name: valueAt(found.columns[1]!, row) as string,
  }))
  // texts that an array would take for its own signs, and amounts with many digits
  const notes = ['plain', 'a "quoted" one', 'back\\slash', 'comma, brace {x}', 'NULL', 'two\nlines', 'é ü ß', "it's"]
  budgets = customers
    .filter((_, at) => at % 3 !== 1)
    .map(({ code }, at) => ({
      code,
      amount: `${at * 37 - 100}.${String(at % 1000).padStart(4, '0')}`,
      note: notes[at % notes.length]!,
      since: `2026-0${(at % 9) + 1}-15`,
    }))
  ;({ id: books } = await app.addFiles(tester, 'Budget book', [
    file('budget.csv', stringify([['code', 'amount', 'note', 'since'], ...budgets.map(each => Object.values(each) as string[])])),
    file('many.csv', `n,code,amount,every\n${many().map(Object.values).join('\n')}\n`),
  ]))
}, 240_000)
afterAll(() => app?.close())

async function tableOf(name: string, more: Partial<ElsewhereTable> = {}): Promise<ElsewhereTable> {
  const table = findTable((await app.sources.catalog(ownContext, books)).catalog, name)!
  return {
    kind: 'elsewhere',
    name,
    source: books,
    table: name,
    columns: table.columns.map(({ name: column, type, scale, databaseType }) => ({
      name: column,
      type,
      databaseType,
      ...(scale === undefined ? {} : { scale }),
    })),
    key: table.primaryKey,
    filters: [],
    ...more,
  }
}
/** Customers with what another source says of them. */
async function report(change: (root: ReportDefinition['dataSets'][0]['root']) => object, table: ElsewhereTable): Promise<ReportDefinition> {
  const { catalog } = await app.sources.catalog(ownContext, '')
  const made = listOfTable(catalog, 'customers', app.sources.get('').id, 'Customers')
  const root = { ...made.dataSets[0]!.root, fields: ['code', 'name'] }
  return { ...made, tables: [table], dataSets: [{ ...made.dataSets[0]!, root: { ...root, ...change(root) } }] }
}
async function rows(definition: ReportDefinition): Promise<Record<string, unknown>[]> {
  const path = join(folder, 'out.json')
  writeFileSync(path, '')
  await app.pool.run(tester, await app.input(tester, 'Customers', definition, {}), { format: 'json', file: path })
  const found = JSON.parse(readFileSync(path, 'utf8')) as unknown
  const list = Array.isArray(found) ? found : Object.values(found as object).find(Array.isArray)
  return list as Record<string, unknown>[]
}
const related = { name: 'plan', table: '@budget', on: [{ from: 'code', to: 'code' }], fields: ['amount', 'note', 'since'], related: [] }

describe('a table of another source', () => {
  it('is looked up by key, value by value, with all digits and signs', async () => {
    const found = await rows(await report(() => ({ related: [related] }), await tableOf('budget')))
    expect(found).toHaveLength(customers.length)
    const text = JSON.stringify(found)
    for (const budget of budgets) expect(text).toContain(JSON.stringify(budget.note))
    const byCode = new Map(found.map(each => [String(each.code), each]))
    for (const { code } of customers) {
      const own = byCode.get(code)!
      const expected = budgets.find(each => each.code === code)
      const plan = own.plan as Record<string, unknown> | null
      const value = (name: string) => (plan && typeof plan === 'object' ? plan[name] : own[`plan.${name}`]) ?? null
      expect([code, value('note'), value('since')]).toEqual([code, expected?.note ?? null, expected?.since ?? null])
      expect(Number(value('amount') ?? NaN)).toBe(expected ? Number(expected.amount) : NaN)
    }
  })

  it('is added up, filtered and sorted by', async () => {
    const definition = await report(
      () => ({
        totals: [
          {
            name: 'planned',
            table: '@budget',
            on: [{ from: 'code', to: 'code' }],
            total: 'sum',
            value: 'amount',
            filters: ['since >= date(2026, 4, 1)'],
          },
        ],
        filters: ['planned > 1000'],
        sort: [{ field: 'planned', descending: true }],
      }),
      await tableOf('budget'),
    )
    const found = await rows(definition)
    const expected = budgets
      .filter(each => each.since >= '2026-04-01' && Number(each.amount) > 1000)
      .sort((a, b) => Number(b.amount) - Number(a.amount))
    expect(found.map(each => each.code)).toEqual(expected.map(each => each.code))
    expect(found.map(each => Number(each.planned))).toEqual(expected.map(each => Number(each.amount)))
    expect(found.length).toBeGreaterThan(5)
  })

  it('can be the root of a data set, narrowed by filters of its own', async () => {
    const table = await tableOf('budget', { filters: ['amount < 0 or note = "NULL"'] })
    const { catalog } = await app.sources.catalog(ownContext, '')
    const made = listOfTable(catalog, 'customers', app.sources.get('').id, 'Customers')
    const root = {
      name: 'line',
      table: '@budget',
      on: [],
      fields: ['code', 'amount'],
      related: [
        { name: 'customer', table: 'customers', on: [{ from: 'code', to: 'code' }], fields: ['name'], related: [], pick: { sort: [] } },
      ],
      details: [],
      filters: [],
      sort: [{ field: 'code', descending: false }],
    }
    const definition = {
      ...made,
      tables: [table],
      layouts: made.layouts.map(each => ({ ...each, blocks: [] })),
      dataSets: [{ ...made.dataSets[0]!, root, fields: {} }],
    }
    const found = await rows(definition)
    const expected = budgets.filter(each => Number(each.amount) < 0 || each.note === 'NULL')
    expect(found.map(each => each.code)).toEqual(expected.map(each => each.code).sort())
    const text = JSON.stringify(found)
    for (const { code } of expected) expect(text).toContain(JSON.stringify(customers.find(each => each.code === code)!.name))
  })

  it('is narrowed by the answers, periods and day of the report, not by those of its source; without answers not at all', async () => {
    // the other source has no fiscal calendar, and a day of its own
    const table = await tableOf('budget', { filters: ['period(since) = param.month and since <= today()'] })
    const definition: ReportDefinition = {
      ...(await report(() => ({}), table)),
      parameters: [{ name: 'month', label: 'Month', kind: 'period', required: true }],
    }
    const { calendar } = (await app.sources.catalog(ownContext, '')).catalog
    const period = calendar!.periods.find(each =>
      budgets.some(({ since }) => parseDay(since)! >= each.start && parseDay(since)! <= each.end),
    )!
    const expected = budgets.filter(({ since }) => parseDay(since)! >= period.start && parseDay(since)! <= period.end)
    const { elsewhere } = await app.input(tester, 'x', definition, { month: period.code })
    expect(elsewhere!.budget![0]).toBe(arrayText(expected.map(each => each.code)))
    expect(expected.length).toBeGreaterThan(3)
    expect((await app.input(tester, 'x', definition, {})).elsewhere).toBeUndefined()
  })

  it('with more rows than go along is read by what its joins ask for, within the filters of their levels', async () => {
    const total = {
      name: 'sold',
      table: '@many',
      on: [{ from: 'code', to: 'code' }],
      total: 'sum',
      value: 'amount',
      filters: ['n < 90000'],
    }
    const last = { ...related, name: 'last', table: '@many', fields: ['n'], pick: { sort: [{ field: 'n', descending: true }] } }
    const [from] = customers.map(each => each.code).slice(-40)
    const filters = [`code >= "${from}"`, 'sold > 0']
    const definition = await report(() => ({ totals: [total], related: [last], filters }), await tableOf('many'))
    const input = await app.input(tester, 'x', definition, {})
    // none but those of the customers that are left
    const read = many().filter(each => each.code >= from! && !each.code.startsWith('X-'))
    expect(
      input
        .elsewhere!.many![0]!.replace(/[{}"]/g, '')
        .split(',')
        .map(Number)
        .sort((a, b) => a - b),
    ).toEqual(read.map(each => each.n))
    const expected = customers.flatMap(({ code }) => {
      const own = read.filter(each => each.code === code)
      const sold = own.filter(each => each.n < 90_000).reduce((sum, each) => sum + Math.round(Number(each.amount) * 100), 0)
      return code >= from! && sold > 0 ? [{ code, sold: sold / 100, last: Math.max(...own.map(each => each.n)) }] : []
    })
    const found = await rows(definition)
    const written = found.map(each => ({
      code: each.code,
      sold: Number(each.sold),
      last: Number(((each.last as Record<string, unknown>) ?? {}).n ?? each['last.n']),
    }))
    expect(written.sort((a, b) => (String(a.code) < String(b.code) ? -1 : 1))).toEqual(expected)
    expect(expected.length).toBeGreaterThan(20)
    // by numbers too, of which the other table's column could not hold all
    const byNumber = { ...last, on: [{ from: 'id', to: 'n' }], fields: ['code'], pick: undefined }
    const numbered = await app.input(tester, 'x', await report(() => ({ related: [byNumber] }), await tableOf('many')), {})
    expect(numbered.elsewhere!.many![0]!.split(',')).toHaveLength(customers.length)
  })

  it('is refused where a join asks for too many rows, or where it is read otherwise too', async () => {
    const table = await tableOf('many')
    const all = { ...related, name: 'all', table: '@many', on: [{ from: 'code', to: 'every' }], fields: ['n'] }
    await expect(app.input(tester, 'x', await report(() => ({ related: [all] }), table), {})).rejects.toThrow(
      'nor does a join ask for so few',
    )
    const joined = await report(() => ({ related: [{ ...all, on: related.on }] }), table)
    const stacked = { kind: 'stack', name: 'stacked', origin: 'from', tables: ['@many'], columns: ['n'], key: [] } as never
    await expect(app.input(tester, 'x', { ...joined, tables: [...joined.tables!, stacked] }, {})).rejects.toThrow('more than 100,000 rows')
  })

  it('with too many rows, or of a source that is gone, is told in one sentence; checks and putting away know of it', async () => {
    const many = await report(() => ({}), await tableOf('many'))
    await expect(app.input(tester, 'x', many, {})).rejects.toThrow('“many” of “Budget book” has more than 100,000 rows')
    const few = await report(() => ({}), await tableOf('many', { filters: ['n < 10'] }))
    expect((await app.input(tester, 'x', few, {})).elsewhere!.many![0]!.length).toBeLessThan(100)
    const gone = await report(() => ({}), await tableOf('budget', { source: 'nowhere' }))
    await expect(app.input(tester, 'x', gone, {})).rejects.toThrow('The source of “budget” is not here any more')
    const other = await report(() => ({}), await tableOf('budget', { table: 'budgets' }))
    await expect(app.input(tester, 'x', other, {})).rejects.toThrow('“Budget book” has no table “budgets” any more')
    await app.store.create(tester, 'Tests', 'Plans', await report(() => ({ related: [related] }), await tableOf('budget')), false)
    await app.store.create(tester, 'Tests', 'Broken plans', other, false)
    await expect(app.putSourceAway(tester, books)).rejects.toThrow('“Plans”')
    expect((await checkSource(tester, app, books)).reports).toEqual([
      { name: 'Broken plans', problems: ['“budget” reads the table “budgets”, which is not there any more.'] },
    ])
  })
})
