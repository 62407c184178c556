import { ownContext } from '../server/access/context'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { namesOfMatches } from '../core/api/swap'
import type { Catalog } from '../core/books/catalog'
import type { SourceNames } from '../core/swap/names'
import type { ReportDefinition } from '../core/definition/report'
import { dayText } from '../core/value/date'
import { demoReports } from '../demo/reports/reports'
import { type Estante, openEstante } from '../server/estante'
import { proveSame } from '../server/runs/proof'
import { usesOfSource } from '../server/sources/usesOfSource'
import { keepSwap, pointedReady, proposeSwap } from '../server/sources/swap'
import { loadCompany, removeServer, startServer, type TestServer } from './servers'
import { demoData, rowsAndPages, temporaryFolder, tester } from './support'

let server: TestServer
let app: Estante
let demo: Catalog
const ids = { same: '', odd: '', near: '' }
const folder = temporaryFolder()
const data = demoData()
const day = '2026-10-31'

/** Names that nothing tells: the tables of a source that calls everything otherwise. */
const odd = (name: string) => `Q ${[...name].reverse().join('')}"`
const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`

/** Names that people would know again. */
const near: Record<string, string> = {
  customers: 'CUST', invoices: 'INV_HEADERS', invoice_lines: 'INV_LINES', items: 'PRODUCTS', receipts: 'CUST_RECEIPTS',
  customer_id: 'CUST_NO', invoice_id: 'INV_NO', item_id: 'PRODUCT_NO', invoice_date: 'INV_DT', due_date: 'DUE_DT', quantity: 'QTY',
  line_no: 'LINE_NR', description: 'DESCR', currency: 'CCY',
} // prettier-ignore

function rename(schema: string, table: (name: string) => string, column: (name: string) => string): void {
  const lines = demo.tables.flatMap(({ name, columns }) => [
    ...columns
      .filter(each => column(each.name) !== each.name)
      .map(each => `alter table ${schema}.${quoted(name)} rename column ${quoted(each.name)} to ${quoted(column(each.name))};`),
    ...(table(name) === name ? [] : [`alter table ${schema}.${quoted(name)} rename to ${quoted(table(name))};`]),
  ])
  server.sql(lines.join('\n'))
}

beforeAll(async () => {
  server = startServer()
  for (const schema of ['company', 'odd', 'near']) await loadCompany(server, schema)
  app = await openEstante({ folder: data })
  demo = (await app.sources.catalog(ownContext, '')).catalog
  rename('odd', odd, odd)
  rename(
    'near',
    name => near[name] ?? name,
    name => near[name] ?? name,
  )
  const add = async (name: string, schema: string) =>
    (await app.addServer(tester, name, { url: server.as('reader'), day, schemas: [schema] })).id
  ids.same = await add('The same company', 'company')
  ids.odd = await add('Other names', 'odd')
  ids.near = await add('Near names', 'near')
}, 240_000)
afterAll(async () => {
  await app?.close()
  if (server) removeServer(server)
})

const oddNames = (): SourceNames => ({
  tables: Object.fromEntries(
    demo.tables.map(({ name, columns }) => [
      name,
      { table: odd(name), columns: Object.fromEntries(columns.map(column => [column.name, odd(column.name)])) },
    ]),
  ),
})
const report = (name: string) => demoReports().find(each => each.name === name)!

describe('a report pointed at the same tables under other names', () => {
  it.each(demoReports().map(({ name, definition }) => [name, definition] as const))(
    '%s prints the same rows and pages',
    async (name, here) => {
      const there = await pointedReady(tester, app, here, ids.odd, oddNames())
      expect(there.lacks).toEqual([])
      const before = await rowsAndPages(app, folder, name, here)
      expect(await rowsAndPages(app, folder, name, there.definition)).toEqual(before)
    },
  )
})

describe('matches', () => {
  it.each(demoReports().map(({ name, definition }) => [name, definition] as const))(
    'of %s with the same names are all sure, and the source is read as it is',
    async (_, definition) => {
      const { tables, lacks } = await proposeSwap(tester, app, definition, ids.same)
      expect(lacks).toEqual([])
      for (const table of tables) {
        expect([table.to, table.sure]).toEqual([table.table, 'sure'])
        for (const column of table.columns) expect([column.to, column.sure]).toEqual([column.column, 'sure'])
      }
      expect((await pointedReady(tester, app, definition, ids.same, namesOfMatches(tables))).source).toBe(ids.same)
    },
  )

  it('of names that people would know again are found by words, captions and values', async () => {
    for (const { name, definition } of demoReports()) {
      const { tables, lacks } = await proposeSwap(tester, app, definition, ids.near)
      expect([name, lacks]).toEqual([name, []])
      for (const table of tables) {
        expect([name, table.table, table.to]).toEqual([name, table.table, near[table.table] ?? table.table])
        for (const column of table.columns)
          expect([table.table, column.column, column.to]).toEqual([table.table, column.column, near[column.column] ?? column.column])
      }
    }
  })
})

describe('proof of sameness', () => {
  const proved = async (name: string, here: ReportDefinition, there: ReportDefinition) =>
    proveSame(tester, app, { id: name, name, before: here, now: there }, {})
  const of = async (definition: ReportDefinition, to: string) => {
    const { tables } = await proposeSwap(tester, app, definition, to)
    return (await pointedReady(tester, app, definition, to, namesOfMatches(tables))).definition
  }

  it('demo, the same company on a server, and back: nothing differs', async () => {
    for (const name of ['Invoice register', 'Balance sheet', 'Customer ageing']) {
      const { definition } = report(name)
      const there = await of(definition, ids.same)
      const proof = await proved(name, definition, there)
      expect([proof.same, proof.changes.counts]).toEqual([true, { new: 0, gone: 0, changed: 0, same: proof.changes.counts.same }])
      expect(proof.changes.counts.same).toBeGreaterThan(10)
      const back = await of(there, app.sources.get('').id)
      expect(back).toEqual({ ...definition, dataSets: definition.dataSets.map(set => ({ ...set, source: app.sources.get('').id })) })
      expect((await proved(name, there, back)).same).toBe(true)
    }
  })

  it('tells the one amount that differs, by how much, and in which record', async () => {
    const { name, definition } = report('Invoice register')
    const there = await of(definition, ids.near)
    expect((await proved(name, definition, there)).same).toBe(true)
    const today = await app.input(tester, name, definition, {})
    const [number] = server
      .sql(`select number from near."INV_HEADERS" where "INV_DT" <= '${dayText(today.today)}' order by "INV_DT" desc, number limit 1`)
      .split('\n')
    server.sql(`update near."INV_HEADERS" set total = total + 0.01 where number = '${number}'`)
    const { same, changes } = await proved(name, definition, there)
    expect(same).toBe(false)
    const lines = changes.rows.filter(each => each.cells.some(cell => cell.cell === 'total'))
    expect(
      lines.filter(each => each.label.includes(number!)).map(each => each.cells.find(cell => cell.cell === 'total')?.difference),
    ).toEqual(['0.01'])
    server.sql(`update near."INV_HEADERS" set total = total - 0.01 where number = '${number}'`)
  })

  it('what is left out stays out though the source has something of that name, and is told', async () => {
    const { definition } = report('Invoice register')
    const { tables } = await proposeSwap(tester, app, definition, ids.same)
    const without = tables.map(table => ({
      ...table,
      columns: table.columns.map(column => {
        const { to, ...rest } = column
        return table.table === 'invoices' && column.column === 'total' ? rest : { ...rest, ...(to ? { to } : {}) }
      }),
    }))
    const { lacks } = await pointedReady(tester, app, definition, ids.same, namesOfMatches(without))
    expect(lacks.join(' ')).toContain('total')
  })

  it('sees pages that draw something else while all rows say the same', async () => {
    const { name, definition } = report('Balance sheet')
    const there = await of(definition, ids.same)
    const changed = {
      ...there,
      layouts: there.layouts.map(each => ({
        ...each,
        page: { ...each.page, margins: { ...each.page.margins, top: each.page.margins.top + 1 } },
      })),
    }
    const proof = await proved(name, definition, changed)
    const { counts } = proof.changes
    expect([proof.same, counts.new + counts.gone + counts.changed, proof.differing.length > 0]).toEqual([false, 0, true])
  })

  it('a swap is a version that is there after a restart, and can be taken back', async () => {
    const { name, definition } = report('Item sales')
    const id = await app.store.create(tester, 'Tests', 'Sold, pointed elsewhere', definition, false)
    const { definition: kept, version } = await app.store.report(tester, id)
    const names = namesOfMatches((await proposeSwap(tester, app, kept, ids.near)).tables)
    const swapped = await keepSwap(tester, app, { id, basedOn: version, definition: kept }, ids.near, names)
    expect(swapped.lacks).toEqual([])
    // where-used of the source knows it by the source's own names
    const used = async (table: string, column: string) =>
      (await usesOfSource(tester, app, ids.near, { table, column })).map(each => each.name)
    expect(await used('INV_LINES', 'QTY')).toEqual(['Sold, pointed elsewhere'])
    expect(await used('INV_LINES', 'quantity')).toEqual([])
    await expect(app.putSourceAway(tester, ids.near)).rejects.toThrow('“Sold, pointed elsewhere” reads “Near names”')
    // both are the same while the source is there again
    await app.close()
    app = await openEstante({ folder: data })
    const again = await app.store.report(tester, id)
    expect(again.definition).toEqual(swapped.definition)
    expect((await proved(name, kept, again.definition)).same).toBe(true)
    await app.store.save(tester, id, again.version, kept)
    await app.putSourceAway(tester, ids.near)
  })
})
