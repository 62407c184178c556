import { ownContext } from '../../access/context'
import { existsSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { dayText } from '../../../core/value/date'
import { plainText } from '../../../core/value/plain'
import { listOfTable } from '../../../core/templates/draft'
import { valueAt } from '../../../core/value/columns'
import type { Value, ValueType } from '../../../core/value/value'
import { startMariadb, type TestMariadb } from '../../../tests/mariadb'
import { demoData, tester } from '../../../tests/support'
import { type Estante, openEstante } from '../../estante'
import { mariadb } from './mariadb'

let server: TestMariadb
let app: Estante
let folder: string
beforeAll(async () => {
  server = await startMariadb()
  server.sql(`
    create database shop character set utf8mb4;
    create user reader identified by 'open sesame'; grant select on shop.* to reader;
    use shop;
    create table customers (id int unsigned primary key auto_increment comment 'Number of the customer', name varchar(40) not null,
      code char(8), joined date, seen datetime(6), stamp timestamp null, active bit(1), rating float, ratio double,
      big bigint unsigned,
      money decimal(30,10), kind enum('a','b'), tags set('x','y'), note text, raw binary(4), picture blob, level tinyint, y year)
      comment 'Who buys';
    create table orders (id int primary key, customer_id int unsigned, total decimal(12,2), foreign key fk_customer (customer_id) references
      customers (id));
    create table notes (body text, made datetime) engine=MyISAM;
    create view totals as select customer_id, sum(total) as total from orders group by customer_id;
    create table \`odd "name\` (\`a b\` int primary key, \`c"d\` text);
    set sql_mode = '';
    insert into customers (name, code, joined, seen, stamp, active, rating, ratio, big, money, kind, tags, note, raw, picture, level, y)
      values
      ('Ana “ç” 😀', 'A1  ', '2026-03-31', '2026-03-31 09:30:15.250001', '2026-03-29 00:30:00', b'1', 0.1, 0.30000000000000004,
       18446744073709551615, 12345678901234567890.1234567891, 'a', 'x,y', 'two\\nlines\\tand \\\\ all', x'00ff10ab', 'p', -128, 2026),
      ('Zero', '', '0000-00-00', '0000-00-00 00:00:00', null, b'0', 16777216, 1e300, 0, -0.0000000001, 'b', '', '', null, null, 127, 0),
      ('None', null, null, null, null, null, null, null, null, null, null, null, null, null, null, null, null);
    insert into orders select seq, 1 + seq % 3, seq * 1.25 from seq_1_to_50000;
    insert into notes values ('x', '2026-01-01 00:00:00');
    insert into \`odd "name\` values (1, 'é');`)
  folder = demoData()
  app = await openEstante({ folder })
})
afterAll(async () => {
  await app?.close()
  await server?.stop()
})

const shown = (value: Value) => (value === null ? null : plainText(value, dayText))
const rowsOf = (id: string, columns: Record<string, ValueType>, rest: string) =>
  app.sources.reading(tester, id, async snapshot => {
    const text = `select ${Object.keys(columns)
      .map(name => `"${name.replaceAll('"', '""')}"`)
      .join(', ')} from ${rest}`
    const found = await snapshot.query({ text, values: [], columns: Object.entries(columns).map(([path, type]) => ({ path, type })) })
    return Array.from({ length: found.count }, (_, row) => found.columns.map(column => shown(valueAt(column, row) as Value)))
  })
const count = async (id: string) => (await rowsOf(id, { count: 'number' }, `(select count(*) from "data"."orders") as t`))[0]![0]

describe('a copy of a MariaDB', () => {
  let id: string
  it('holds its tables with keys, comments and every digit', async () => {
    const told: number[] = []
    const added = await app.copies.add(tester, 'Shop', { url: server.as('reader', 'open sesame') }, progress => told.push(progress.rows))
    id = added.id
    expect(added.tables.map(({ name, rows, key }) => [name, rows, key])).toEqual([
      ['customers', 3, ['id']],
      ['notes', 1, []],
      ['odd "name', 1, ['a b']],
      ['orders', 50_000, ['id']],
      ['totals', 3, []],
    ])
    expect(told.at(-1)).toBeGreaterThan(20_000)
    const problems = Object.fromEntries(added.tables.map(table => [table.name, table.problems]))
    expect(problems.customers).toEqual([
      'The column “picture” is left out: blob has no counterpart in a report.',
      '1 date of zeros in “joined” of “customers” is taken as empty.',
      '1 date of zeros in “seen” of “customers” is taken as empty.',
    ])
    expect(problems.notes).toEqual(['It is kept in MyISAM, so it may change while it is copied.'])
    const { catalog } = await app.sources.catalog(ownContext, id)
    const customers = catalog.tables.find(table => table.name === 'customers')!
    expect(customers.comment).toBe('Who buys')
    expect(customers.columns[0]).toMatchObject({ name: 'id', type: 'number', comment: 'Number of the customer', required: true })
    expect(catalog.foreignKeys.map(key => [key.from, key.to])).toEqual([
      [
        { table: 'orders', columns: ['customer_id'] },
        { table: 'customers', columns: ['id'] },
      ],
    ])
    const columns: Record<string, ValueType> = {
      name: 'text',
      code: 'text',
      joined: 'date',
      seen: 'moment',
      stamp: 'moment',
      active: 'boolean',
      rating: 'number',
      ratio: 'number',
      big: 'number',
      money: 'number',
      kind: 'text',
      tags: 'text',
      note: 'text',
      raw: 'text',
      level: 'number',
      y: 'number',
    }
    expect(Object.fromEntries(customers.columns.filter(each => each.name in columns).map(each => [each.name, each.type]))).toEqual(columns)
    expect(await rowsOf(id, columns, '"data"."customers" order by id')).toEqual([
      [
        'Ana “ç” 😀',
        'A1',
        '2026-03-31',
        '2026-03-31 09:30:15.250001',
        '2026-03-29 00:30:00',
        'yes',
        '0.1',
        '0.30000000000000004',
        '18446744073709551615',
        '12345678901234567890.1234567891',
        'a',
        'x,y',
        'two\nlines\tand \\ all',
        '00ff10ab',
        '-128',
        '2026',
      ],
      ['Zero', '', null, null, null, 'no', '16777216', `1${'0'.repeat(300)}`, '0', '-0.0000000001', 'b', '', '', null, '127', '0'],
      ['None', ...Array.from({ length: 15 }, () => null)],
    ])
    expect(await rowsOf(id, { 'c"d': 'text' }, '"data"."odd ""name"')).toEqual([['é']])
  })

  it('is refreshed into a generation of its own; whoever reads goes on with the one before, and it can be gone back to', async () => {
    const before = await app.sources.get(id).snapshot(tester)
    server.sql('use shop; delete from orders where id > 49000; insert into customers (name) values ("New")')
    expect((await app.copies.refresh(tester, id)).generation).toBe(2)
    const old = await before.query({
      text: 'select count(*)::text from "data"."orders"',
      values: [],
      columns: [{ path: 'n', type: 'text' }],
    })
    expect(valueAt(old.columns[0]!, 0)).toBe('50000')
    before.close()
    expect(await count(id)).toBe('49000')
    await app.copies.use(tester, id, 1)
    expect(await count(id)).toBe('50000')
    expect((await app.copies.generations(tester, id)).generations.map(each => [each.number, each.rows])).toEqual([
      [2, 49_009],
      [1, 50_008],
    ])
    for (const _ of [3, 4]) await app.copies.refresh(tester, id)
    expect(
      readdirSync(join(folder, 'sources', id))
        .filter(name => /^g\d+$/.test(name))
        .sort(),
    ).toEqual(['g2', 'g3', 'g4'])
    await expect(app.copies.use(tester, id, 1)).rejects.toThrow('“Shop” has no generation 1 any more')
  }, 240_000)

  it('is not refreshed in silence where a report would break', async () => {
    const { catalog } = await app.sources.catalog(ownContext, id)
    const report = await app.store.create(tester, 'Trial', 'Notes', listOfTable(catalog, 'notes', id, 'Notes'), false)
    server.sql('use shop; alter table notes drop column body')
    await expect(app.copies.refresh(tester, id)).rejects.toThrow(/not put in place, because “Notes” would break \(.*body.*\); change what/)
    expect(await rowsOf(id, { body: 'text' }, '"data"."notes"')).toEqual([['x']])
    const { generation } = await app.copies.refresh(tester, id, { evenSo: true })
    expect(generation).toBe((await app.copies.generations(tester, id)).generation)
    await expect(rowsOf(id, { body: 'text' }, '"data"."notes"')).rejects.toThrow('does not exist')
    await app.store.remove(tester, report)
  }, 120_000)

  it('that cannot be refreshed keeps what it has and says why', async () => {
    server.sql(`use shop; alter table customers modify name text; insert into customers (name) values (concat('a', char(0), 'b'))`)
    await expect(app.copies.refresh(tester, id)).rejects.toThrow(
      /Row 5 of “customers” holds “a.b”, which is no text that can be kept exactly; correct it in the database\./s,
    )
    const { generation, failed } = await app.copies.generations(tester, id)
    expect(generation).toBe(5)
    expect(failed!.why).toContain('Row 5 of “customers”')
    expect(await count(id)).toBe('49000')
    expect(existsSync(join(folder, 'sources', id, 'g6'))).toBe(false)
    server.sql(`use shop; delete from customers where name like 'a%b'`)
  }, 120_000)

  it.each([
    ['a wrong password', () => server.as('reader', 'wrong'), 'does not know “reader” with this password'],
    ['no such database', () => server.as('reader', 'open sesame', 'nowhere'), 'has no database “nowhere” that “reader” may read'],
    ['nothing there', () => 'mysql://a@127.0.0.1:1/b', 'Nothing answers at 127.0.0.1:1'],
    ['another kind of address', () => 'other://a@b/c', 'is of no database that can be copied'],
    ['no user', () => 'mysql://localhost/shop', 'names nobody who reads'],
  ])('%s is one sentence, and nothing is left', async (_, url, sentence) => {
    const before = readdirSync(join(folder, 'sources'))
    const error = (await app.copies.add(tester, 'Wrong', { url: url() }).catch((thrown: unknown) => thrown)) as Error
    expect(error.message).toContain(sentence)
    expect(error.message).not.toContain('sesame')
    expect(readdirSync(join(folder, 'sources'))).toEqual(before)
  })

  it('whose table is altered, or whose view fails, while it is copied is one sentence with its place', async () => {
    const open = await mariadb.open(server.as('reader', 'open sesame'))
    try {
      const { tables } = await open.look()
      server.sql(`use shop; alter table orders add column late int, algorithm=copy`)
      const orders = tables.find(table => table.name === 'orders')!
      await expect(
        open.read(
          orders,
          () => Promise.resolve(),
          () => {},
        ),
      ).rejects.toThrow('A table was changed while it was copied; copy once more. It was at row 0 of “orders”.')
    } finally {
      await open.close()
    }
    server.sql(`use shop; create view several as select id, (select total from orders) as total from orders`)
    const before = await app.copies.generations(tester, id)
    await expect(app.copies.refresh(tester, id)).rejects.toThrow(/Subquery returns more than 1 row\. It was at row 0 of “several”\.$/)
    expect((await app.copies.generations(tester, id)).generation).toBe(before.generation)
    server.sql(`use shop; drop view several; alter table orders drop column late`)
  }, 120_000)

  it('is there again after a restart, without its password in the clear', async () => {
    await app.close()
    app = await openEstante({ folder })
    expect(await count(id)).toBe('49000')
    expect((await app.copies.refresh(tester, id)).generation).toBeGreaterThan(5)
  }, 120_000)
})
