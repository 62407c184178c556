import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { existsSync, readdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { valueAt } from '../../core/value/columns'
import { startMariadb, type TestMariadb } from '../../tests/mariadb'
import { removeServer, startServer, type TestServer } from '../../tests/servers'
import { temporaryFolder, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'

let mariadb: TestMariadb
let server: TestServer
const folder = temporaryFolder()
const given = temporaryFolder()
const rows = 60_000
const csv = (from: number) => {
  const path = join(given, 'long.csv')
  writeFileSync(path, `code,amount\n${Array.from({ length: rows }, (_, at) => `${at + from},${at}.25`).join('\n')}\n`)
  return path
}
const env = () => ({ ...process.env, ESTANTE_DEMO: 'off', ESTANTE_PASSWORD: 'quay' })
const onServer = (wanted: boolean) => {
  if (wanted) process.env.ESTANTE_COPIES_URL = server.as('keeper', 'quay', 'copies')
  else delete process.env.ESTANTE_COPIES_URL
}
const opened = async <T>(work: (app: Estante) => Promise<T>): Promise<T> => {
  const app = await openEstante({ folder })
  try {
    return await work(app)
  } finally {
    await app.close()
  }
}
beforeAll(async () => {
  mariadb = await startMariadb()
  server = startServer()
  server.sql(`create role keeper login password 'quay'; create database copies owner keeper`)
  mariadb.sql(`create database shop; create user reader identified by 'quay'; grant select on shop.* to reader; use shop;
    create table orders (id int primary key, amount decimal(12,2), changed datetime not null);
    insert into orders select seq, seq, '2026-01-01' from seq_1_to_${rows}`)
  process.env.ESTANTE_DEMO = 'off'
  await opened(async app => {
    await app.addFiles(tester, 'Books', [{ path: csv(1), name: 'long.csv' }])
    await app.copies.add(tester, 'Shop', { url: mariadb.as('reader', 'quay') })
    await app.copies.add(tester, 'By change', { url: mariadb.as('reader', 'quay'), grows: { orders: 'changed' } })
    onServer(true)
    await app.copies.add(tester, 'On a server', { url: mariadb.as('reader', 'quay') })
  })
}, 240_000)
afterAll(async () => {
  delete process.env.ESTANTE_DEMO
  onServer(false)
  await mariadb.stop()
  removeServer(server)
})

/** The command line, ended after so many milliseconds as a machine that fails ends it. */
async function killed(after: number, ...args: string[]): Promise<void> {
  const child = spawn(process.execPath, ['.build/cli/estante.mjs', 'source', ...args, '--data', folder], { env: env(), stdio: 'ignore' })
  const gone = once(child, 'exit')
  setTimeout(() => child.kill('SIGKILL'), after)
  await gone
}

/** What a source holds: the least and the greatest key, and how many rows. */
const held = (app: Estante, name: string, table: string, key: string) =>
  app.sources.reading(tester, app.sources.list().find(each => each.name === name)!.id, async snapshot => {
    const text = `select concat_ws('|', min("${key}"), max("${key}"), count(*)) as "line" from "data"."${table}"`
    const found = await snapshot.query({ text, values: [], columns: [{ path: 'line', type: 'text' }] })
    return String(valueAt(found.columns[0]!, 0))
  })

describe('loading that is killed', () => {
  it.each([
    ['a copy that is refreshed whole', 'Shop', 'orders', 'id', ['refresh', 'Shop']],
    ['a copy that is refreshed by what changed', 'By change', 'orders', 'id', ['refresh', 'By change']],
    ['a copy on a server', 'On a server', 'orders', 'id', ['refresh', 'On a server']],
    ['files that are taken in again', 'Books', 'long', 'code', ['refresh', 'Books', '--files', join(given, 'long.csv')]],
  ])(
    'leaves %s as it was, or as it is now',
    async (_, name, table, key, args) => {
      onServer(name === 'On a server')
      const seen = new Set<string>()
      for (const [round, after] of [900, 1600, 2400, 3300].entries()) {
        const before = await opened(app => held(app, name, table, key))
        csv(round + 10)
        mariadb.sql(`use shop; update orders set id = ${rows} + ${round + 1}, changed = now() where id >= ${rows}`)
        await killed(after, ...args)
        const found = await opened(app => held(app, name, table, key))
        const fresh = name === 'Books' ? `${round + 10}|${rows + round + 9}|${rows}` : `1|${rows + round + 1}|${rows}`
        expect([before, fresh]).toContain(found)
        seen.add(found === before ? 'before' : 'after')
      }
      expect(seen).toContain('before')
      // and the next one is whole
      await opened(async app => {
        const { id } = app.sources.list().find(each => each.name === name)!
        if (name === 'Books') await app.takeAgain(tester, id, [{ path: csv(77), name: 'long.csv' }])
        else await app.copies.refresh(tester, id)
        expect(await held(app, name, table, key)).toBe(name === 'Books' ? `77|${rows + 76}|${rows}` : `1|${rows + 4}|${rows}`)
        const own = join(folder, 'sources', id)
        expect(existsSync(own) ? readdirSync(own).filter(each => !/^g\d+$/.test(each)) : []).toEqual([])
      })
      if (name !== 'Books') mariadb.sql(`use shop; update orders set id = ${rows} where id > ${rows}`)
    },
    240_000,
  )

  it('for the first time leaves no source, and its name is free', async () => {
    onServer(false)
    for (const after of [1200, 2500]) {
      await killed(after, 'add', 'New', '--files', csv(1))
      await opened(async app => {
        const found = app.sources.list().find(each => each.name === 'New')
        if (found) await app.putSourceAway(tester, found.id)
        const known = app.sources.list().map(each => each.id)
        const there = readdirSync(join(folder, 'sources')).filter(each => !each.startsWith('.'))
        expect(there.filter(each => !known.includes(each))).toEqual([])
      })
    }
    await opened(app => app.addFiles(tester, 'New', [{ path: csv(1), name: 'long.csv' }]))
  }, 240_000)
})
