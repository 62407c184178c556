import { ownContext } from '../../access/context'
import { existsSync, mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import { startMariadb, type TestMariadb } from '../../../tests/mariadb'
import { removeServer, startServer, type TestServer } from '../../../tests/servers'
import { temporaryFolder, tester } from '../../../tests/support'
import { valueAt } from '../../../core/value/columns'
import { type Estante, openEstante } from '../../estante'
import { readAgainFrom } from './changed'

let mariadb: TestMariadb
let server: TestServer
let app: Estante
const folder = temporaryFolder()
const open = async () => {
  process.env.ESTANTE_DEMO = 'off'
  app = await openEstante({ folder })
}
beforeAll(async () => {
  mariadb = await startMariadb()
  server = startServer()
  server.sql(`create role keeper login password 'quay'; create database copies owner keeper`)
  mariadb.sql(`
    create database shop character set utf8mb4;
    create user reader identified by 'open sesame'; grant select on shop.* to reader;
`)
  await open()
}, 240_000)
/** The shop as it is at first: orders of long ago, with two keys that are free. */
const fill = () =>
  mariadb.sql(`use shop; drop table if exists orders, customers, journal;
    create table customers (id int primary key, name varchar(40) not null);
    create table orders (id bigint primary key auto_increment, customer_id int not null, amount decimal(12,2), note varchar(30),
      changed datetime(6) null default current_timestamp(6) on update current_timestamp(6),
      foreign key (customer_id) references customers (id));
    create table journal (id bigint unsigned primary key, what varchar(20));
    insert into customers (id, name) select seq, concat('Customer ', seq) from seq_1_to_50;
    insert into customers values (0, 'Nought'), (-1, 'A'), (-32, 'B'), (-33, 'C'), (-64, 'D'), (-65, 'E');
    insert into orders (id, customer_id, amount, note) select seq, 1 + seq % 50, seq / 4, concat('note ', seq)
      from seq_1_to_40000 where seq not in (106, 107);
    update orders set changed = '2020-01-01 00:00:00';
    insert into journal select 18446744073709540000 + seq, concat('line ', seq) from seq_1_to_3000;`)
afterAll(async () => {
  delete process.env.ESTANTE_DEMO
  delete process.env.ESTANTE_COPIES_URL
  await app.close()
  await mariadb.stop()
  removeServer(server)
})

/** All rows of a table of the copy, written as MariaDB's client writes them. */
const kept = (id: string, columns: readonly string[], table: string, order = 'id') =>
  app.sources.reading(tester, id, async snapshot => {
    const list = columns.map(each => `coalesce("${each}"::text, 'NULL')`).join(` || '|' || `)
    const text = `select ${list} as "line" from "data"."${table}" order by "${order}"`
    const rows = await snapshot.query({ text, values: [], columns: [{ path: 'line', type: 'text' }] })
    return Array.from({ length: rows.count }, (_, row) => String(valueAt(rows.columns[0]!, row)))
  })
const theirs = (columns: readonly string[], table: string) =>
  mariadb
    .sql(`select concat_ws('|', ${columns.map(each => `ifnull(${each}, 'NULL')`).join(', ')}) from shop.${table} order by id`)
    .split('\n')

const orders = ['id', 'customer_id', 'amount', 'note']
const same = async (id: string) => {
  expect(await kept(id, orders, 'orders')).toEqual(theirs(orders, 'orders'))
  expect(await kept(id, ['id', 'what'], 'journal')).toEqual(theirs(['id', 'what'], 'journal'))
  expect(await kept(id, ['id', 'name'], 'customers')).toEqual(theirs(['id', 'name'], 'customers'))
}

describe.each([
  ['in a folder', false],
  ['on a server', true],
])('a refresh by what changed, of a copy that lies %s', (_, onServer) => {
  let id: string
  it('is, row by row, what the database holds', async () => {
    fill()
    if (onServer) process.env.ESTANTE_COPIES_URL = server.as('keeper', 'quay', 'copies')
    const said = { url: mariadb.as('reader', 'open sesame'), grows: { orders: 'changed', journal: 'id', customers: 'id' } }
    const added = await app.copies.add(tester, `Shop ${onServer}`, said)
    id = added.id
    await same(id)
    mariadb.sql(`use shop;
      update orders set note = 'changed, all in one' where id % 97 = 0;
      delete from orders where id between 20001 and 20007; delete from orders where id in (3, 40000);
      insert into orders (id, customer_id, amount, note) values (50001, 7, 1.25, 'new'), (50002, 8, null, null);
      insert into orders (id, customer_id, amount, note, changed) values
        (60000, 9, 3, 'written late', '2019-01-01'), (60001, 9, 4, 'never', null);
      delete from journal where id = 18446744073709540005; insert into journal values (18446744073709543001, 'more'), (5, 'less');
      update customers set name = 'Another' where id = 4; delete from customers where id in (-1, -32, -65);
      insert into customers values (-31, 'F'), (-2147483648, 'G'), (31, 'H') on duplicate key update name = 'I';`)
    const { generation } = await app.copies.refresh(tester, id)
    expect(generation).toBe(2)
    await same(id)
    // deleted, and others put in their place of the same count and sum, whose column says they are old
    mariadb.sql(`use shop; delete from orders where id in (105, 108);
      insert into orders (id, customer_id, amount, note, changed) values
        (106, 1, 1, 'x', '2019-01-01'), (107, 1, 1, 'z', '2019-01-01');
      insert into orders (id, customer_id, amount, note, changed) values (20003, 1, 1, 'y', '2019-01-01');`)
    await app.copies.refresh(tester, id)
    await same(id)
    const { catalog } = await app.sources.catalog(ownContext, id)
    expect(catalog.tables.find(table => table.name === 'orders')!.primaryKey).toEqual(['id'])
    expect(catalog.foreignKeys.map(key => [key.from.table, key.to.table])).toEqual([['orders', 'customers']])
  }, 240_000)

  it('copies a table whole whose columns are others now, and goes back to what was', async () => {
    const before = await kept(id, orders, 'orders')
    mariadb.sql(`use shop; alter table orders modify note varchar(60), add column extra int default 7;`)
    const { tables } = await app.copies.refresh(tester, id)
    expect(tables.find(table => table.name === 'orders')!.columns.map(column => column.name)).toContain('extra')
    await same(id)
    const { generations, generation } = await app.copies.generations(tester, id)
    expect(generations.map(each => each.number)).toEqual([4, 3, 2])
    expect(generations.every(each => each.bytes! > 100_000)).toBe(true)
    await app.copies.use(tester, id, generation - 1)
    expect(await kept(id, orders, 'orders')).toEqual(before)
    await app.copies.use(tester, id, generation)
  }, 240_000)

  it('is there after a restart, and leaves nothing when it is put away', async () => {
    await app.close()
    await open()
    await same(id)
    await app.putSourceAway(tester, id)
    if (onServer) expect(server.sql(`\\c copies\nselect count(*) from pg_namespace where nspname like 'estante%'`)).toBe('0')
  }, 120_000)
})

describe('a copy on a server that keeps copies', () => {
  it('moves there with a refresh, and says what to do where the server is not named any more', async () => {
    delete process.env.ESTANTE_COPIES_URL
    const { id } = await app.copies.add(tester, 'Moving', { url: mariadb.as('reader', 'open sesame'), grows: { orders: 'changed' } })
    process.env.ESTANTE_COPIES_URL = server.as('keeper', 'quay', 'copies')
    await app.copies.refresh(tester, id)
    await same(id)
    expect(
      server.sql(`\\c copies\nselect count(*) from pg_class c join pg_namespace n on n.oid = relnamespace
      where nspname like 'estante%' and relkind = 'r'`),
    ).toBe('3')
    await app.close()
    delete process.env.ESTANTE_COPIES_URL
    await open()
    await expect(kept(id, orders, 'orders')).rejects.toThrow('lies on the server that keeps copies; start Estante with ESTANTE_COPIES_URL')
    await app.close()
    process.env.ESTANTE_COPIES_URL = server.as('keeper', 'quay', 'copies')
    await open()
    await same(id)
    await app.putSourceAway(tester, id)
  }, 240_000)

  it('keeps nothing that the program was ended over: neither a first generation nor a next one', async () => {
    process.env.ESTANTE_COPIES_URL = server.as('keeper', 'quay', 'copies')
    const { id } = await app.copies.add(tester, 'Ended', { url: mariadb.as('reader', 'open sesame'), tables: ['customers'] })
    const schemas = () => server.sql(`\\c copies\nselect nspname from pg_namespace where nspname like 'estante%' order by 1`).split('\n')
    const [first] = schemas()
    const left = (schema: string) =>
      server.sql(`\\c copies\nset role keeper; create schema "${schema}"; create table "${schema}".customers (id int)`)
    left(first!.replace(/1$/, '2'))
    expect((await app.copies.refresh(tester, id)).generation).toBe(2)
    expect((await kept(id, ['id', 'name'], 'customers')).length).toBe(theirs(['id', 'name'], 'customers').length)
    // what was made of a source that nobody knows goes with the next start that reaches the server
    const own = join(folder, 'sources', 'lost-0123abcd')
    left('estante_lost_0123abcd_g1')
    mkdirSync(own)
    writeFileSync(join(own, 'made-on-server'), 'estante_lost_0123abcd_g1')
    const again = async () => {
      await app.close()
      await open()
    }
    delete process.env.ESTANTE_COPIES_URL
    await again()
    expect(existsSync(own)).toBe(true)
    process.env.ESTANTE_COPIES_URL = server.as('keeper', 'quay', 'copies')
    await again()
    await vi.waitFor(() => expect(existsSync(own)).toBe(false), 10_000)
    expect(schemas()).toEqual([first, first!.replace(/1$/, '2')])
    await app.putSourceAway(tester, id)
    expect(schemas()).toEqual([''])
  }, 120_000)

  it.each([
    ['nobody there', 'postgresql://keeper@localhost:1/copies', 'cannot be used. Nothing answers at localhost:1'],
    ['no address', 'copies', 'ESTANTE_COPIES_URL: The address of a PostgreSQL server is written'],
  ])('%s is one sentence, and nothing is left', async (_, address, sentence) => {
    process.env.ESTANTE_COPIES_URL = address
    await expect(app.copies.add(tester, 'Nowhere', { url: mariadb.as('reader', 'open sesame') })).rejects.toThrow(sentence)
    expect(app.sources.list().some(each => each.name === 'Nowhere')).toBe(false)
  })

  it('whose user may not make schemas is one sentence', async () => {
    server.sql(`create role guest login password 'g'`)
    process.env.ESTANTE_COPIES_URL = server.as('guest', 'g', 'copies')
    await expect(app.copies.add(tester, 'Guest', { url: mariadb.as('reader', 'open sesame') })).rejects.toThrow(
      /let its user make schemas there, or name another in ESTANTE_COPIES_URL\./,
    )
  })
})

describe('a column that grows', () => {
  it.each([
    ['notes', 'name', 'There is no table “notes” among those that are copied.'],
    ['orders', 'nothing', '“orders” has no column “nothing” that is copied'],
    ['orders', 'note', '“note” of “orders” does not grow'],
  ])('%s.%s cannot be one', async (table, column, sentence) => {
    delete process.env.ESTANTE_COPIES_URL
    const said = { url: mariadb.as('reader', 'open sesame'), grows: { [table]: column } }
    await expect(app.copies.add(tester, 'Wrong', said)).rejects.toThrow(sentence)
  })

  it.each([
    ['2026-03-01 00:30:00.5', '2026-02-28 22:30:00.5'],
    ['2026-03-01', '2026-02-28'],
    ['18446744073709551615', '18446744073709550615'],
    ['12.75', '-988'],
  ])('%s is read again from %s', (greatest, from) => expect(readAgainFrom(greatest)).toBe(from))
})
