import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findTable } from '../../core/catalog/types'
import type { ReportDefinition } from '../../core/definition/report'
import { listOfTable } from '../../core/templates/draft'
import { removeServer, startServer, type TestServer } from '../../tests/servers'
import { demoData, tester } from '../../tests/support'
import { ownContext, type Context } from '../access/context'
import { type Estante, openEstante } from '../estante'
import { Moments } from './moments'

/* What is read beside the runs of a pack is of the pack's moments: on a server, where nothing waits for them. */

let server: TestServer
let app: Estante
let id: string
beforeAll(async () => {
  server = startServer()
  server.sql(`create schema trade; create table trade.plans (code text primary key, amount numeric(12, 2) not null);
    insert into trade.plans values ('C-0001', 10), ('C-0002', 20); create role reader login; grant usage on schema trade to reader;
    grant select on all tables in schema trade to reader`)
  app = await openEstante({ folder: demoData() })
  ;({ id } = await app.addServer(tester, 'Plans', { url: server.as('reader'), day: '2026-10-31' }))
}, 240_000)
afterAll(async () => {
  await app?.close()
  if (server) removeServer(server)
})

const sum = (context: Context) =>
  app.sources.reading(context, id, async (snapshot, { schema }) => {
    const columns = [{ path: 'sum', type: 'text' as const }]
    const rows = await snapshot.query({ text: `select sum(amount)::text from "${schema}"."plans"`, values: [], columns })
    return (rows.columns[0] as { values: string[] }).values[0]
  })

/** Customers with a table of the server; what it holds goes along with the run. */
async function report(): Promise<ReportDefinition> {
  const { catalog } = await app.sources.catalog(ownContext, id)
  const { catalog: own } = await app.sources.catalog(ownContext, '')
  const made = listOfTable(own, 'customers', app.sources.get('').id, 'Customers')
  const { columns, primaryKey } = findTable(catalog, 'plans')!
  const kept = columns.map(({ name, type, scale, databaseType }) => ({
    name,
    type,
    databaseType,
    ...(scale === undefined ? {} : { scale }),
  }))
  return {
    ...made,
    tables: [{ kind: 'elsewhere', name: 'plans', source: id, table: 'plans', columns: kept, key: primaryKey, filters: [] }],
  }
}

describe('moments that are held', () => {
  it('are those of all that is read within them; a statement that fails leaves them, and they end with whoever holds them', async () => {
    const within = { ...tester, within: 'a pack' }
    const moments = await Moments.open(within, app.sources, [])
    const definition = await report()
    const taken = async (context: Context) => (await app.input(context, 'Customers', definition, {})).elsewhere!.plans!.join()
    const before = [await sum(within), await taken(within)]
    expect(before).toEqual(['30.00', expect.stringMatching(/\{"10","20"\}$/)])
    server.sql("update trade.plans set amount = 99 where code = 'C-0001'")
    const wrong = app.sources.reading(within, id, snapshot => snapshot.query({ text: 'select 1/0', values: [], columns: [] }))
    await expect(wrong).rejects.toThrow(/zero/)
    expect([await sum(within), await taken(within)]).toEqual(before)
    expect(await sum(tester)).toBe('119.00')
    expect(await taken(tester)).toContain('"99"')
    expect(await sum({ ...tester, within: 'another pack' })).toBe('119.00')
    moments.close()
    expect([await sum(within), await taken(within)]).toEqual(['119.00', expect.stringContaining('"99"')])
  })

  it('are not those of whoever sees less of the source', async () => {
    const teams = [{ id: 'north', name: 'north', attributes: {} }]
    const guarded: Context = { person: 'guarded', signedIn: { id: 'g', name: 'G', signIn: 'g', role: 'author', teams } }
    await app.store.saveGuards(ownContext, id, {
      guards: [{ team: 'north', table: 'plans', is: 'records', formula: 'code = "C-0002"' }],
      released: [],
    })
    const moments = await Moments.open({ ...tester, within: 'all' }, app.sources, [id])
    const seen = await sum({ ...guarded, within: 'all' })
    moments.close()
    expect(seen).toBe('20.00')
    const less = await Moments.open({ ...guarded, within: 'less' }, app.sources, [id])
    const all = await sum({ ...tester, within: 'less' })
    less.close()
    expect(all).toBe('119.00')
  })
})
