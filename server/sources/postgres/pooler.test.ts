import { spawn, type ChildProcess } from 'node:child_process'
import { existsSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Query } from '../../../core/sql/query'
import { valueAt } from '../../../core/value/columns'
import { removeServer, startServer, type TestServer } from '../../../tests/servers'
import { tester } from '../../../tests/support'
import { readAddress } from './address'
import { ServerSource } from './serverSource'
import { tryServer } from './tryServer'

let server: TestServer
const poolers: ChildProcess[] = []
beforeAll(() => {
  server = startServer()
  server.sql(`create role reader login; create schema sales; create table sales.orders as select n as id, n * 1.5 as total
    from generate_series(1, 20000) n; grant usage on schema sales to reader; grant select on sales.orders to reader; analyze`)
}, 120_000)
afterAll(() => {
  poolers.forEach(each => each.kill('SIGKILL'))
  removeServer(server)
})

/** A pooler before the server, which gives its two connections out by sessions, transactions or statements. */
async function pooled(mode: string, port: number): Promise<string> {
  const own = join(server.folder, mode)
  writeFileSync(`${own}.users`, '"reader" ""\n')
  writeFileSync(
    `${own}.ini`,
    `[databases]\npostgres = host=${server.folder}\n[pgbouncer]\nlisten_addr =\nlisten_port = ${port}\nunix_socket_dir = ${server.folder}
auth_type = trust\nauth_file = ${own}.users\npool_mode = ${mode}\ndefault_pool_size = 2\nlogfile = ${own}.log\n
ignore_startup_parameters = extra_float_digits\n`,
  )
  const as = process.getuid?.() === 0 ? ['--user', 'postgres'] : []
  poolers.push(spawn('pgbouncer', [...as, `${own}.ini`], { stdio: 'ignore' }))
  for (let left = 100; left && !existsSync(join(server.folder, `.s.PGSQL.${port}`)); left--)
    await new Promise(resolve => setTimeout(resolve, 100))
  return `postgresql://reader@/postgres?host=${encodeURIComponent(server.folder)}&port=${port}`
}
const ask = (text: string, more: Partial<Query> = {}): Query => ({ text, values: [], columns: [{ path: 'x', type: 'text' }], ...more })
const opened = (url: string) =>
  new ServerSource({ id: 's', name: 'ERP', address: readAddress(url).address, schemas: ['sales'], zone: 'UTC', clock: () => 0 })

describe.each([
  ['sessions', 'session', 7001],
  ['transactions', 'transaction', 7002],
])('a server behind a pooler that gives out %s', (_, mode, port) => {
  it('is read at one moment, authors’ texts beside it, and a question that is ended leaves the next whole', async () => {
    const url = await pooled(mode, port)
    const { address } = readAddress(url)
    expect((await tryServer(address)).schemas).toEqual([{ name: 'sales', tables: 1, rows: 20_000 }])
    const source = opened(url)
    expect((await source.catalog(tester)).tables.map(table => table.name)).toEqual(['orders'])
    const snapshot = await source.snapshot(tester)
    try {
      const counted = async (query: Query) => valueAt((await snapshot.query(query)).columns[0]!, 0)
      const count = ask('select count(*)::text from "source"."orders"')
      expect(await counted(count)).toBe('20000')
      server.sql(`insert into sales.orders values (0, 0)`)
      expect(await counted(count)).toBe('20000')
      expect(await counted(ask('select count(*)::text as x from orders', { authored: true }))).toBe('20000')
      await expect(snapshot.query(ask('select pg_sleep(20)::text'), { timeLimit: 300 })).rejects.toThrow('took longer')
      expect(await counted(count)).toBe('20000')
    } finally {
      snapshot.close()
      await source.close()
      server.sql('delete from sales.orders where id = 0')
    }
  }, 60_000)
})

describe('a server behind a pooler that gives out single statements', () => {
  it('cannot give one moment, which is one sentence', async () => {
    const url = await pooled('statement', 7003)
    await expect(tryServer(readAddress(url).address)).rejects.toThrow(/pooler.*single statements.*; /)
  }, 60_000)
})
