import { ownContext } from '../access/context'
import { createServer } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { listOfTable } from '../../core/templates/draft'
import { valueAt } from '../../core/value/columns'
import { startMariadb, type TestMariadb } from '../../tests/mariadb'
import { removeServer, startServer, type TestServer } from '../../tests/servers'
import { temporaryFolder, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import { editSource, keptConnection, type SaidEdit, triedEdit } from './editSource'

let mariadb: TestMariadb
let server: TestServer
let app: Estante
beforeAll(async () => {
  mariadb = await startMariadb()
  server = startServer()
  server.sql(`create role reader login password 'first'; create role other login password 'second';
    create schema sales; create table sales.orders (id int primary key, amount numeric(12,2)); insert into sales.orders values (1, 2.50);
    create schema later; create table later.orders (id int primary key, amount numeric(12,2)); insert into later.orders values (1, 3);
    create schema poorer; create table poorer.orders (id int primary key); insert into poorer.orders values (9);
    grant usage on schema sales, later, poorer to reader, other;
    grant select on all tables in schema sales, later, poorer to reader, other;`)
  mariadb.sql(`create database shop; create user reader identified by 'open'; grant select on shop.* to reader; use shop;
    create table a (id int primary key, changed datetime); create table b (name varchar(9)); insert into a values (1, now())`)
  process.env.ESTANTE_DEMO = 'off'
  app = await openEstante({ folder: temporaryFolder() })
}, 240_000)
afterAll(async () => {
  delete process.env.ESTANTE_DEMO
  await app.close()
  await mariadb.stop()
  removeServer(server)
})
const edit = (id: string, said: SaidEdit) => editSource(tester, app.keeping, app.within, id, said)
const amount = (id: string) =>
  app.sources.reading(tester, id, async snapshot => {
    const text = 'select amount::text as "amount" from "source"."orders"'
    const found = await snapshot.query({ text, values: [], columns: [{ path: 'amount', type: 'text' }] })
    return valueAt(found.columns[0]!, 0)
  })

describe('a server that is connected otherwise', () => {
  let id: string
  const without = () => server.as('reader')
  it('is read there from then on, by the password that is kept where the place is the same', async () => {
    ;({ id } = await app.addServer(tester, 'ERP', { url: server.as('reader', 'first'), schemas: ['sales'] }))
    const kept = await keptConnection(tester, app.keeping, id)
    expect(kept).toMatchObject({ kind: 'server', name: 'ERP', schemas: ['sales'], day: '' })
    expect(JSON.stringify(kept)).not.toContain('first')
    // whoever reads goes on reading what was there
    const reading = await app.sources.get(id).snapshot(tester)
    await edit(id, { name: 'ERP of later', server: { url: without(), schemas: ['later'], day: '2026-03-31' } })
    const text = 'select amount::text as "amount" from "source"."orders"'
    const found = await reading.query({ text, values: [], columns: [{ path: 'amount', type: 'text' }] })
    expect(valueAt(found.columns[0]!, 0)).toBe('2.50')
    reading.close()
    expect(await amount(id)).toBe('3.00')
    expect(app.sources.get(id).name).toBe('ERP of later')
    expect((await triedEdit(tester, app.keeping, id, { url: without() })) as object).toMatchObject({ server: { notes: [] } })
  }, 60_000)

  it('never breaks a report in silence', async () => {
    const { catalog } = await app.sources.catalog(ownContext, id)
    const report = await app.store.create(tester, 'Trial', 'Orders', listOfTable(catalog, 'orders', id, 'Orders'), false)
    const poorer = { name: 'ERP', server: { url: without(), schemas: ['poorer'] } }
    await expect(edit(id, poorer)).rejects.toThrow(
      /^The connection stays as it was, because “Orders” would break \(.*amount.*\); change what .*, or change it all the same\.$/,
    )
    expect(await amount(id)).toBe('3.00')
    await edit(id, { ...poorer, evenSo: true })
    await expect(amount(id)).rejects.toThrow('does not exist')
    await edit(id, { name: 'ERP', server: { url: without(), schemas: ['sales'] } })
    expect(await amount(id)).toBe('2.50')
    await app.store.remove(tester, report)
  }, 60_000)

  it.each([
    ['another user and database', () => server.as('other').replace('/postgres', '/nowhere'), /no database|password/],
    ['a place where nobody is', () => 'postgresql://reader@localhost:1/postgres', /Nothing answers/],
    ['no address', () => 'nowhere', /is written postgresql/],
  ])('stays as it was with %s', async (_, url, sentence) => {
    await expect(edit(id, { name: 'ERP', server: { url: url(), schemas: ['sales'] } })).rejects.toThrow(sentence)
    expect(await amount(id)).toBe('2.50')
  })

  it('is still a server', async () => {
    await expect(edit(id, { name: 'ERP', watch: '/tmp' })).rejects.toThrow('is a source of another kind')
  })
})

describe('a password that is kept', () => {
  it('goes to no other place than that for which it was given', async () => {
    const { id } = await app.addServer(tester, 'Guarded', { url: server.as('reader', 'first'), schemas: ['sales'] })
    const { url, heard, close } = await listen()
    await expect(triedEdit(tester, app.keeping, id, { url })).rejects.toThrow()
    expect(heard()).not.toContain('first')
    // one that is said does, so that it would have been heard
    await expect(triedEdit(tester, app.keeping, id, { url, password: 'second' })).rejects.toThrow()
    expect(heard()).toContain('second')
    close()
  }, 60_000)

  it('of a copied database is used there, and for nobody else', async () => {
    const { id } = await app.copies.add(tester, 'Shop', { url: mariadb.as('reader', 'open') })
    await expect(triedEdit(tester, app.keeping, id, { url: mariadb.as('nobody') })).rejects.toThrow('does not know “nobody”')
    const found = await triedEdit(tester, app.keeping, id, { url: mariadb.as('reader') })
    expect(found).toMatchObject({ copy: { tables: [{ name: 'a' }, { name: 'b' }] } })
  }, 60_000)
})

describe('a copy that is made otherwise', () => {
  it('is so with its next refresh', async () => {
    const { id } = await app.copies.add(tester, 'Shop of all', { url: mariadb.as('reader', 'open') })
    await edit(id, { name: 'Shop of one', copy: { url: mariadb.as('reader'), tables: ['a'], grows: { a: 'changed' } } })
    expect(await keptConnection(tester, app.keeping, id)).toMatchObject({ name: 'Shop of one', tables: ['a'], grows: { a: 'changed' } })
    const held = async () => (await app.sources.catalog(ownContext, id)).catalog.tables.map(each => each.name)
    expect(await held()).toEqual(['a', 'b'])
    await app.copies.refresh(tester, id)
    expect(await held()).toEqual(['a'])
  }, 60_000)

  it.each([
    [{ tables: ['c'] }, 'There is no table “c” that may be read'],
    [{ grows: { b: 'name' } }, '“name” of “b” does not grow'],
  ])('%j is refused', async (more, sentence) => {
    const { id } = app.sources.list().find(each => each.name === 'Shop of one')!
    await expect(edit(id, { name: 'Shop of one', copy: { url: mariadb.as('reader'), ...more } })).rejects.toThrow(sentence)
  })
})

/** A place that asks whoever comes for a password in the clear, as a PostgreSQL server may, and hears it. */
async function listen(): Promise<{ url: string; heard: () => string; close: () => void }> {
  let heard = ''
  const own = createServer(socket =>
    socket
      .on('data', bytes => {
        heard += bytes.toString('latin1')
        // what begins with a letter is an answer to the question
        if (bytes[0] === 0x70) socket.destroy()
        else socket.write(Buffer.from([0x52, 0, 0, 0, 8, 0, 0, 0, 3]))
      })
      .on('error', () => {}),
  )
  await new Promise<void>(resolve => own.listen(0, '127.0.0.1', resolve))
  const { port } = own.address() as { port: number }
  return { url: `postgresql://reader@127.0.0.1:${port}/postgres`, heard: () => heard, close: () => own.close() }
}
