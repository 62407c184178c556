import fc from 'fast-check'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../../core/books/catalog'
import type { Guard } from '../../../core/guard/guards'
import type { Query, Rows } from '../../../core/sql/query'
import { valueAt } from '../../../core/value/columns'
import { removeServer, startServer, type TestServer } from '../../../tests/servers'
import { tester } from '../../../tests/support'
import { attacks } from '../../../tests/attacks'
import type { Snapshot } from '../contract'
import { guardedSnapshot, ownSight, type OwnSight } from '../guarded'
import { readAddress } from './address'
import { ServerSource } from './serverSource'

/*
 * Texts of authors for somebody with guards, on a server of somebody else's: each gives what it gives, by another program, in a copy of the
 * database from which hidden records and columns were taken by hand.
 */

let server: TestServer
let source: ServerSource
let catalog: Catalog
let copy: pg.Client

const guards: Guard[] = [
  { team: 'north', table: 'branches', is: 'records', formula: 'code in (person.branches)' },
  { team: 'north', table: 'orders', is: 'with', key: 'orders_branch_id_fkey' },
  { team: 'north', table: 'lines', is: 'with', key: 'lines_order_id_fkey' },
  { team: 'north', table: 'people', is: 'hidden', columns: ['salary'] },
  { team: 'north', table: 'Odd.Ünï "x"', is: 'records', formula: 'note = "open"' },
  { team: 'north', table: 'guarded_view', is: 'records', formula: 'total < 100' },
]

beforeAll(async () => {
  server = startServer()
  server.sql(`
    create role reader login; alter role reader set standard_conforming_strings to off;
    create schema sales; create schema "Odd"; create schema source;
    set search_path to sales;
    create type status as enum ('open', 'paid');
    create table branches (id int primary key, code text not null);
    create table orders (id int primary key, branch_id int references branches, total numeric(12,2), weight double precision,
      placed timestamp, state status, secret text);
    create table lines (order_id int references orders, line int, quantity numeric(10,3), primary key (order_id, line));
    create table people (id int primary key, name text, salary numeric, spare text);
    create table shipments (id int primary key, order_id int, note text);
    create table shared (id int primary key, x text);
    create table "Odd".shared (id int primary key, x text);
    create table "Odd"."Ünï ""x""" (id int primary key, note text);
    create table "Odd".orders_of_old (id int primary key, total numeric);
    create table source.marks (id int primary key, code text);
    create table marks (id int primary key, code text);
    create view open_orders as select * from orders where state = 'open';
    create view guarded_view as select id, total from orders;
    insert into branches values (1, 'NQ'), (2, 'SQ'), (3, 'EQ');
    insert into orders select n, 1 + n % 3, n * 1.25, n / 7.0,
      timestamp '2026-01-01 08:30' + n * interval '7 hours',
      case when n % 4 = 0 then 'paid' else 'open' end::status, 'hidden ' || n from generate_series(1, 300) n;
    insert into lines select o.id, l, o.id * l / 8.0 from orders o, generate_series(1, 3) l;
    insert into people select n, 'P' || n, n * 1000, 's' || n from generate_series(1, 9) n;
    insert into shipments select n, n, 'to ' || n from generate_series(1, 300, 2) n;
    insert into shared select n, 'sales ' || n from generate_series(1, 4) n;
    insert into "Odd".shared select n, 'odd ' || n from generate_series(1, 4) n;
    insert into "Odd"."Ünï ""x""" select n, case when n % 2 = 0 then 'open' else 'shut' end from generate_series(1, 20) n;
    insert into "Odd".orders_of_old select n, n from generate_series(1, 5) n;
    insert into source.marks values (1, 'real');
    insert into marks values (1, 'mark');
    grant usage on schema sales, "Odd", source to reader;
    grant select on all tables in schema sales, "Odd", source to reader; analyze;`)
  server.sql('create database copied template postgres')
  copy = new pg.Client({ connectionString: server.as('estante', '', 'copied') })
  await copy.connect()
  await copy.query(`set search_path to sales, "Odd", source; set timezone to 'Europe/Lisbon';
    delete from lines where order_id in (select id from orders where branch_id <> 1);
    delete from orders where branch_id <> 1; delete from branches where code <> 'NQ';
    alter table people drop column salary; delete from "Odd"."Ünï ""x""" where note <> 'open';`)
  source = new ServerSource({
    id: 's',
    name: 'ERP',
    address: readAddress(server.as('reader')).address,
    schemas: ['sales', 'Odd', 'source'],
    zone: 'Europe/Lisbon',
    clock: () => 0,
  })
  catalog = await source.catalog(tester)
}, 120_000)
afterAll(async () => {
  await source?.close()
  await copy?.end()
  if (server) removeServer(server)
})

const observers = [{ teams: ['north'], attributes: { branches: ['NQ'] } }]
const sightOf = (own: Guard[] = guards, parsed = true): OwnSight =>
  ownSight('s', catalog, { guards: own, released: [], parsed }, observers, 0)

/** A moment as somebody with guards sees it. */
async function guarded<T>(work: (snapshot: Snapshot) => Promise<T>, sight = sightOf()): Promise<T> {
  const snapshot = await source.snapshot(tester)
  try {
    return await work(guardedSnapshot(snapshot, catalog, source.schema, sight))
  } finally {
    snapshot.close()
  }
}

/** A statement over an author's text as the planner writes one: its rows as JSON. */
const over = (text: string, values: unknown[] = []): Query => ({
  text: `select row_to_json("t")::text from (${text}\n) as "t"`,
  values,
  columns: [{ path: 'row', type: 'text' }],
  authored: true,
  texts: [text],
})
const rowsOf = (rows: Rows) => Array.from({ length: rows.count }, (_, row) => String(valueAt(rows.columns[0]!, row))).sort()
const ask = (text: string, values: unknown[] = [], sight?: OwnSight) =>
  guarded(async snapshot => rowsOf(await snapshot.query(over(text, values))), sight)
const expected = async (text: string, values: unknown[] = []) => {
  const { rows } = await copy.query<{ row: string }>(`select row_to_json("t")::text as row from (${text}\n) as "t"`, values)
  return rows.map(each => each.row).sort()
}
/** What only hidden records hold. */
const told = /hidden \d|\b[1-9]000\b|shut|\bSQ\b|\bEQ\b/

const texts: [string, string][] = [
  ['a table by its bare name', 'select id, total from orders'],
  ['with its schema', 'select o.id, o.secret from sales.orders o'],
  ['quoted, in odd places', 'select * from\n"sales" /* here */ . -- there\n "orders"\nwhere id > 7'],
  ['in another letter case', 'SELECT Orders.ID FROM Sales.ORDERS'],
  ['without a name of its own', 'select orders.id, orders.placed from orders order by orders.total desc limit 3'],
  ['as a whole row', 'select to_json(orders)::text as j from orders'],
  [
    'joined in all ways',
    'select count(*), sum(l.quantity) from lines l join orders o on o.id = l.order_id left join shipments s on s.order_id = o.id',
  ],
  ['joined with using', 'select * from orders natural full join (select id, note from shipments) s'],
  ['listed by commas', 'select b.code, o.id from branches b, orders o where b.id = o.branch_id'],
  ['in parts of its own', 'with big as (select * from orders where total > 100), n as (select count(*) c from lines) select * from big, n'],
  [
    'in parts that go on',
    'with recursive r as (select min(id) as id from orders union all select (select min(id) from orders o where o.id > r.id) from r ' +
      'where r.id < 30) select * from r',
  ],
  [
    'in a test',
    'select * from shipments where order_id in (select id from orders) or exists (select 1 from lines where order_id = shipments.id)',
  ],
  ['in a list', 'select (select count(*) from orders) as a, array(select id from branches) as b'],
  ['in a union', 'select id from orders union all select order_id from lines except select 3 intersect select id from orders'],
  ['beside it', 'select b.code, top.id from branches b, lateral (select id from orders where branch_id = b.id order by total limit 2) top'],
  ['in windows', 'select id, sum(total) over (partition by branch_id order by id) from orders'],
  ['of other languages', 'select "Ünï ""x""".note, count(*) from "Odd"."Ünï ""x""" group by note'],
  ['with letters of other languages before it', `select 'Zürich – “é”' as "ß", id from /* ñ */ orders`],
  ['without hidden columns', 'select * from people'],
  ['that has a name twice', 'select x from sales.shared union all select x from "Odd".shared'],
  ['that no guard is about', 'select * from orders_of_old, shipments where orders_of_old.id = shipments.id'],
  ['with columns named anew', 'select a, c from orders as o(a, b, c)'],
  ['in parentheses', 'select * from ((orders o join lines l on l.order_id = o.id) join branches b on b.id = o.branch_id)'],
  ['in groups', 'select branch_id, state, count(*) from orders group by grouping sets ((branch_id), (state), ()) having count(*) > 1'],
  ['in an order', 'select id from shipments order by (select count(*) from orders o where o.id < shipments.id), id limit 5'],
  ['in a filter of a total', 'select count(*) filter (where id in (select id from orders)) from shipments'],
  ['with escapes in its name', `select id from U&"ord\\0065rs"`],
  ['beside a backslash in quotes, whatever the server takes it for', `select '\\' as a, id from orders where '\\' <> ' or id > 0 --'`],
  ['as values', 'select * from (values ((select max(id) from orders)), (2)) as v(a)'],
]

describe('a text of an author’s that is taken apart', () => {
  it.each(texts)('reads what is seen of a table %s', async (_, text) => {
    const own = await ask(text)
    expect(own).toEqual(await expected(text))
    expect(own.length).toBeGreaterThan(0)
  })

  it('keeps its parameters apart from those of guards', async () => {
    const text = 'select id from orders where total > $1::numeric and id in (select order_id from lines where quantity < $2::numeric)'
    const values = ['50', '90']
    expect(await ask(text, values)).toEqual(await expected(text, values))
  })

  it('goes with tables of ours in one statement', async () => {
    const query: Query = {
      text: `select o."id"::text from "source"."orders" as o join (select id from orders where total > $1::numeric\n) as t on t.id = o."id"
        join "source"."shipments" as s on s."order_id" = o."id" where exists (select 1 from "source"."lines" where "order_id" = o."id")`,
      values: ['40'],
      columns: [{ path: 'id', type: 'text' }],
      authored: true,
      texts: [],
    }
    const own = await guarded(async snapshot => rowsOf(await snapshot.query(query)))
    const { rows } = await copy.query<{ id: string }>(
      'select id::text from orders where total > 40 and id in (select order_id from shipments) and id in (select order_id from lines)',
    )
    expect(own).toEqual(rows.map(each => each.id).sort())
  })

  it('a schema of the server called like ours is read as itself', async () => {
    const own: Guard[] = [{ team: 'north', table: 'source.marks', is: 'records', formula: 'code != "real"' }]
    const other: Guard[] = [{ team: 'north', table: 'marks', is: 'records', formula: 'code != "mark"' }]
    for (const name of ['source.marks', '"source" . "marks"', 'SOURCE . marks']) {
      expect(await ask(`select m.code from ${name} m`, [], sightOf(own)), name).toEqual([])
      expect(await ask(`select m.code from ${name} m where m.code = 'mark'`, [], sightOf([...own, ...other])), name).toEqual([])
    }
  })

  it('several guards of several teams, and a person of another branch, see theirs', async () => {
    const two: Guard[] = [
      { team: 'north', table: 'orders', is: 'records', formula: 'total > 50 and state = "open"' },
      { team: 'south', table: 'orders', is: 'records', formula: 'placed < date(2026, 1, 20)' },
    ]
    const sight = ownSight('s', catalog, { guards: two, released: [], parsed: true }, [{ teams: ['north', 'south'], attributes: {} }], 0)
    const all = server.sql(`select json_build_object('id', id) from sales.orders
      where (total > 50 and state = 'open') or placed < '2026-01-20' `)
    const ids = (list: string[]) => list.map(each => (JSON.parse(each) as { id: number }).id).sort((a, b) => a - b)
    expect(ids(await ask('select id from orders', [], sight))).toEqual(ids(all.split('\n')))
  })

  it('tells its columns without those that are hidden, and its faults at their places', async () => {
    await guarded(async snapshot => {
      const columns = await snapshot.describe('select * from people, orders where orders.id = $1::int')
      expect(columns.map(each => each.name)).toEqual('id name spare id branch_id total weight placed state secret'.split(' '))
      expect(columns.find(each => each.name === 'weight')!.databaseType).toBe('double precision')
      for (const [text, word] of [
        ['select p.id, o.id, p.salary from orders o, people p', 'p.salary'],
        ['select totl from orders', 'totl'],
        [`select 'é', id from branches join orders using (id) where totl > 1`, 'totl'],
      ] as const) {
        const fault = (await snapshot.describe(text).catch((error: unknown) => error)) as { message: string; position: number }
        expect(fault.message).toContain('does not exist')
        expect(text.slice(fault.position - 1)).toMatch(new RegExp(`^${word}`))
      }
    })
  })

  it('is refused where that is not allowed, and whole where it was released', async () => {
    await expect(ask('select id from orders', [], sightOf(guards, false))).rejects.toThrow('ask an administrator')
    const released = { ...sightOf(), released: new Set(['select id from orders']) }
    expect((await ask('select id from orders', [], released)).length).toBe(300)
  })

  it('any text of joins, parts and tests gives what the copy gives', async () => {
    const table = fc.constantFrom('orders', 'sales.orders', '"orders"', 'Sales . "orders"', 'lines', 'branches', 'shipments', 'people')
    const key = (name: string) => (name === 'lines' ? 'order_id' : 'id')
    const { from } = fc.letrec<{ from: string }>(tie => ({
      from: fc.oneof(
        { depthSize: 'small', withCrossShrink: true },
        table.map(name => `select ${key(name)} as k from ${name}`),
        fc
          .tuple(tie('from'), tie('from'), fc.constantFrom('join', 'left join', 'full join', 'right join'))
          .map(([one, other, join]) => `select coalesce(a.k, b.k) as k from (${one}) a ${join} (${other}) b on a.k = b.k`),
        fc
          .tuple(tie('from'), tie('from'), fc.constantFrom('union', 'union all', 'except', 'intersect'))
          .map(([one, other, how]) => `(${one}) ${how} (${other})`),
        fc.tuple(tie('from'), tie('from')).map(([one, other]) => `with part as (${one}) select k from part where k in (${other})`),
        fc.tuple(table, tie('from')).map(([name, one]) => `select ${key(name)} as k from ${name} where ${key(name)} in (${one})`),
        tie('from').map(one => `select (select count(*) from orders where id >= t.k)::int as k from (${one}) /* from orders */ t`),
      ),
    }))
    await fc.assert(
      fc.asyncProperty(from, async text => {
        const counted = `select k, count(*) as n from (${text}) as "all" group by k`
        expect(await ask(counted)).toEqual(await expected(counted))
      }),
      { numRuns: 60 },
    )
  }, 120_000)
})

/** Ways by which somebody could try to read what guards hide. */
const evasions: [string, string][] = [
  ['a view over a guarded table', 'select secret as x from open_orders'],
  ['the same in its schema', 'select secret as x from sales.open_orders'],
  ['a part with the name of a table', 'with orders as (select 1 as id) select secret as x from sales.orders'],
  ['a part that reads the table by its own name', 'with orders as (select * from orders) select secret as x from orders'],
  ['ONLY', 'select secret as x from only orders'],
  ['ONLY in parentheses', 'select secret as x from only (sales.orders)'],
  ['a star behind the table', 'select secret as x from orders *'],
  ['TABLE', 'table orders'],
  ['TABLE in a part', 'with t as (table sales.orders) select secret as x from t'],
  ['a sample', 'select secret as x from orders tablesample system (100)'],
  ['escapes of one’s own in a name', `select secret as x from sales.U&"ord!0065rs" uescape '!'`],
  ['another database', 'select secret as x from postgres.sales.orders'],
  ['the records of a table by its file', 'select ctid::text as x from orders'],
  ['the table’s number', 'select tableoid::text as x from orders'],
  ['a hidden column', 'select salary::text as x from people'],
  ['a hidden column of the row', 'select (people).salary::text as x from people'],
  ['a hidden column by the row’s type', `select (json_populate_record(null::people, '{}')).*`],
  ['the same with its schema', 'select (null::sales.people).*'],
  ['a table as text', `select table_to_xml('sales.orders', true, true, '')::text as x`],
  ['a text as a query', `select query_to_xml('select secret from sales.orders', true, true, '')::text as x`],
  ['a text for statistics', `select word as x from ts_stat('select to_tsvector(secret) from sales.orders')`],
  ['a closed parenthesis', 'select 1 as x) as "t", (select secret from only orders'],
  ['a lock', 'select secret as x from orders for share of orders'],
  ['a text that only looks like a comment', `select secret as x from /* " */ only /* " */ orders`],
  ['the sums that the server keeps', `select most_common_vals::text as x from pg_stats where tablename = 'orders'`],
]

describe('what guards hide', () => {
  it.each([...evasions, ...attacks])('is not read by %s', async (_, text) => {
    for (const query of [over(text), { ...over(text), text }]) {
      const outcome = await guarded(snapshot => snapshot.query(query).then(rowsOf, (error: Error) => error))
      expect(outcome).toBeInstanceOf(Error)
      expect((outcome as Error).message).not.toMatch(told)
    }
  })

  it('is not read by names that the text’s quotes could hide from us, nor by closing what stands around it', async () => {
    const odd = [
      `select E'\\'' as a, id from "source"."orders" where 'x' <> E'\\''`,
      `select $a$ ' $a$ as a, id from orders where $b$ " $b$ <> ''`,
      `select /* /* ' */ from people */ id from orders`,
      `select id from orders) as "t", lateral (select "t".id as other, o.secret from sales.orders o where o.id = "t".id`,
      `select '"source"."orders"' as a, id from orders -- from orders`,
    ]
    for (const text of odd) {
      const outcome = await guarded(snapshot => snapshot.query(over(text)).then(rowsOf, (error: Error) => error))
      const seen = Array.isArray(outcome) ? outcome : []
      const visible = new Set((await copy.query<{ id: number }>('select id from sales.orders')).rows.map(each => each.id))
      for (const row of seen) expect(visible, `${text}: ${row}`).toContain((JSON.parse(row) as { id: number }).id)
    }
  })

  it('is not told by the error of a test that the server would ask first', async () => {
    // of the records that are seen, none fails
    for (const text of [
      'select id from orders where 1 / (branch_id - 2) < 5',
      `select id from orders where (case when branch_id <> 1 then secret else '1' end)::int > 0`,
      `select o.id from orders o join lines l on l.order_id = o.id and 1 / (o.branch_id - 3) < 5`,
    ])
      expect(await ask(text)).toEqual(await expected(text))
  })

  it('a view is read where it has a guard of its own', async () => {
    const own = await ask('select id from guarded_view')
    expect(own).toEqual(
      server
        .sql(`select json_build_object('id', id) from sales.guarded_view where total < 100`)
        .split('\n')
        .map(each => each.replaceAll(' ', ''))
        .sort(),
    )
  })

  it('a name that several schemas have is refused where one of them is guarded', async () => {
    const one: Guard[] = [{ team: 'north', table: 'Odd.shared', is: 'records', formula: 'id = 1' }]
    await expect(ask('select x from shared', [], sightOf(one))).rejects.toThrow('several schemas')
    expect(await ask('select x from "Odd".shared', [], sightOf(one))).toEqual(['{"x":"odd 1"}'])
    expect((await ask('select x from sales.shared', [], sightOf(one))).length).toBe(4)
  })

  it('a guard that cannot be worked out shows nothing', async () => {
    const gone: Guard[] = [{ team: 'north', table: 'orders', is: 'records', formula: 'nowhere = 1' }]
    expect(await ask('select id from orders', [], sightOf(gone))).toEqual([])
  })
})
