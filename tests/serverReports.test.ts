import { ownContext } from '../server/access/context'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoReports } from '../demo/reports/reports'
import { type Estante, openEstante } from '../server/estante'
import { loadCompany, removeServer, startServer, type TestServer } from './servers'
import { demoData, rowsAndPages, temporaryFolder, tester } from './support'

let server: TestServer
let app: Estante
let id: string
const folder = temporaryFolder()
beforeAll(async () => {
  server = startServer()
  await loadCompany(server, 'company')
  app = await openEstante({ folder: demoData() })
  ;({ id } = await app.addServer(tester, 'The same company', { url: server.as('reader'), day: '2026-10-31' }))
})
afterAll(async () => {
  await app?.close()
  if (server) removeServer(server)
})

describe('the demo company on a PostgreSQL server', () => {
  it('has the same catalog, books and periods as in the embedded engine', async () => {
    const plain = ({ catalog }: Awaited<ReturnType<Estante['sources']['catalog']>>) => ({
      ...catalog,
      // char(n) is read without its padding there, and can be joined as it stands
      tables: catalog.tables.map(({ schema: _, rowEstimate: __, ...table }) => ({
        ...table,
        columns: table.columns.map(({ raw: ___, ...column }) => column),
      })),
      foreignKeys: [...catalog.foreignKeys].sort((a, b) => (a.name < b.name ? -1 : 1)),
    })
    expect(plain(await app.sources.catalog(ownContext, id))).toEqual(plain(await app.sources.catalog(ownContext, '')))
  })

  it.each(demoReports().map(({ name, definition }) => [name, definition] as const))(
    '%s gives the same rows and pages',
    async (name, here) => {
      const there = { ...here, dataSets: here.dataSets.map(set => ({ ...set, source: id })) }
      const before = await rowsAndPages(app, folder, name, here)
      expect(await rowsAndPages(app, folder, name, there)).toEqual(before)
      expect(before[1].length).toBeGreaterThan(100)
    },
  )
})
