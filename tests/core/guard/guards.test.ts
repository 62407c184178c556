import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import type { PGlite } from '@electric-sql/pglite'
import type { Catalog } from '../../../core/books/catalog'
import type { Guard } from '../../../core/guard/guards'
import { guardedRole, policyStatements } from '../../../core/guard/policies'
import { guardRefusal } from '../../../core/guard/refusal'
import { seenCatalog } from '../../../core/guard/seenCatalog'
import { allSeen, type Observer, sightOf } from '../../../core/guard/sight'
import { GuardedStatements } from '../../../core/guard/statements'
import { clock } from '../../../demo/company/clock'
import { schema } from '../../../demo/source'
import { secureSource } from '../../../server/sources/embedded/roles'
import { demoDatabase } from '../../support'

let db: PGlite
let catalog: Catalog
interface Invoice {
  id: number
  kind: string
  branch_id: number
  customer_id: number
  total: string
  due_date: string | null
}
let invoices: Invoice[]
let branches: { id: number; code: string }[]
let lines: { invoice_id: number; line_no: number }[]
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
  invoices = (await db.query<Invoice>('select id, kind, branch_id, customer_id, total::text, due_date::text from invoices order by id'))
    .rows
  branches = (await db.query<(typeof branches)[number]>('select id, code from branches')).rows
  lines = (await db.query<(typeof lines)[number]>('select invoice_id, line_no from invoice_lines')).rows
})

/** A guard of invoices, and what it means for one of them, said again by hand. */
const templates: { formula: string; holds: (each: Invoice, person: Observer) => boolean }[] = [
  { formula: 'kind = "invoice"', holds: each => each.kind === 'invoice' },
  { formula: 'total > 1000', holds: each => Number(each.total) > 1000 },
  { formula: 'due_date = empty', holds: each => each.due_date === null },
  { formula: 'due_date > today()', holds: each => each.due_date !== null && each.due_date > '2026-10-31' },
  { formula: 'branch_id in (person.numbers)', holds: (each, { attributes }) => !!attributes.numbers?.includes(String(each.branch_id)) },
  {
    formula: 'not (branch_id in (person.numbers))',
    // an empty list shows nothing, whatever the formula makes of it
    holds: (each, { attributes }) => !!attributes.numbers?.length && !attributes.numbers.includes(String(each.branch_id)),
  },
  {
    formula: 'kind in (person.kinds) or total < 0',
    holds: (each, { attributes }) => !!attributes.kinds?.length && (attributes.kinds.includes(each.kind) || Number(each.total) < 0),
  },
]
const person = fc.record({
  teams: fc.subarray(['a', 'b', 'c']),
  attributes: fc.record(
    { numbers: fc.subarray(['1', '2', '3']), kinds: fc.subarray(['invoice', 'credit note', `o'hara "x" $1`]) },
    { requiredKeys: [] },
  ),
})
const guardSet = fc.array(fc.record({ team: fc.constantFrom('a', 'b', 'c'), template: fc.nat(templates.length - 1) }), { maxLength: 5 })
type GuardSet = { team: string; template: number }[]

const asGuards = (set: GuardSet): Guard[] =>
  set.map(({ team, template }) => ({ team, table: 'invoices', is: 'records', formula: templates[template]!.formula }))
/** Rule by rule: all guards of a team hold, one of the teams is enough, teams without a guard say nothing. */
const seenByHand = (set: GuardSet, observer: Observer): number[] => {
  const speaking = observer.teams.filter(team => set.some(each => each.team === team))
  return invoices
    .filter(
      each =>
        !speaking.length ||
        speaking.some(team => set.filter(own => own.team === team).every(own => templates[own.template]!.holds(each, observer))),
    )
    .map(each => each.id)
}
const ids = (text: string) => ({ text, values: [], columns: [{ path: 'id', type: 'number' as const, scale: 0 }] })
async function asked(statements: GuardedStatements, text: string): Promise<number[]> {
  const query = statements.query(ids(text))
  return (await db.query<{ id: number }>(query.text, query.values as unknown[])).rows.map(row => row.id)
}

describe('what is seen', () => {
  it('is what a loop over all records by the rules sees, for any guards and people', async () => {
    await fc.assert(
      fc.asyncProperty(guardSet, person, async (set, observer) => {
        const sight = sightOf(catalog, asGuards(set), [observer], clock)
        const expected = seenByHand(set, observer)
        const found = await asked(
          new GuardedStatements(catalog, schema, sight),
          `select id from "${schema}"."invoices" as level order by id`,
        )
        expect(found).toEqual(expected)
        if (!sight.told) expect(expected.length).toBe(invoices.length)
      }),
      { numRuns: 60 },
    )
  })

  it('is the same for texts of authors, which the engine guards by policies', async () => {
    await secureSource(db, schema)
    await fc.assert(
      fc.asyncProperty(guardSet, person, async (set, observer) => {
        const sight = sightOf(catalog, asGuards(set), [observer], clock)
        if (!sight.told) return
        await db.exec(
          [
            'begin',
            ...policyStatements(catalog, schema, sight),
            `set local role ${guardedRole}`,
            `set local search_path to ${schema}`,
          ].join('; '),
        )
        try {
          const found = await db.query<{ id: number }>('with n as (select * from company.invoices) select id from n order by id')
          expect(found.rows.map(row => row.id)).toEqual(seenByHand(set, observer))
        } finally {
          await db.exec('rollback')
        }
      }),
      { numRuns: 25 },
    )
    // nothing of it stays
    expect((await db.query('select 1 from pg_roles where rolname = $1', [guardedRole])).rows).toEqual([])
    expect((await db.query('select 1 from pg_policies')).rows).toEqual([])
  })

  it('of two who look together is what both see', async () => {
    await fc.assert(
      fc.asyncProperty(guardSet, person, person, async (set, one, other) => {
        const found = await asked(
          new GuardedStatements(catalog, schema, sightOf(catalog, asGuards(set), [one, other], clock)),
          `select id from "${schema}"."invoices" as x order by id`,
        )
        const both = new Set(seenByHand(set, other))
        expect(found).toEqual(seenByHand(set, one).filter(id => both.has(id)))
      }),
      { numRuns: 20 },
    )
  })

  it('goes with other records, over several tables', async () => {
    const guards: Guard[] = [
      { team: 'a', table: 'branches', is: 'records', formula: 'code in (person.branches)' },
      { team: 'a', table: 'invoices', is: 'with', key: 'invoices_branch_id_fkey' },
      { team: 'a', table: 'invoice_lines', is: 'with', key: 'invoice_lines_invoice_id_fkey' },
    ]
    for (const codes of [['NQ'], ['BR', 'ID'], ['ZZ'], []]) {
      const sight = sightOf(catalog, guards, [{ teams: ['a'], attributes: { branches: codes } }], clock)
      const inBranch = new Set(branches.filter(each => codes.includes(each.code)).map(each => each.id))
      const own = new Set(invoices.filter(each => inBranch.has(each.branch_id)).map(each => each.id))
      const statements = new GuardedStatements(catalog, schema, sight)
      const query = statements.query(
        ids(`select count(*) as id from "${schema}"."invoice_lines" as l join "${schema}"."invoices" as i on i.id = l.invoice_id`),
      )
      expect((await db.query<{ id: number }>(query.text, query.values as unknown[])).rows[0]!.id).toBe(
        lines.filter(each => own.has(each.invoice_id)).length,
      )
      const alone = statements.query(ids(`select count(*) as id from "${schema}"."invoice_lines"`))
      expect((await db.query<{ id: number }>(alone.text, alone.values as unknown[])).rows[0]!.id).toBe(
        lines.filter(each => own.has(each.invoice_id)).length,
      )
    }
  })
})

describe('statements', () => {
  const sight = () =>
    sightOf(
      catalog,
      [
        { team: 'a', table: 'invoices', is: 'records', formula: 'kind in (person.kinds)' },
        { team: 'a', table: 'customers', is: 'hidden', columns: ['credit_limit'] },
      ],
      [{ teams: ['a'], attributes: { kinds: ['invoice'] } }],
      clock,
    )
  it('keep their own values, and what stands in quotes', () => {
    const { text, values } = new GuardedStatements(catalog, schema, sight()).query({
      text:
        `select '"company"."invoices"', "company"."invoices"."id" as "$1", $1::text from "company"."invoices" ` +
        `where $2 = '$1' -- "company"."invoices"`,
      values: ['one', 'two'],
      columns: [],
    })
    expect(values.slice(0, 2)).toEqual(['one', 'two'])
    expect(values).toHaveLength(3)
    expect(text).toContain(`'"company"."invoices"'`)
    expect(text).toContain('as "$1"')
    expect(text).toContain(`$2 = '$1'`)
    expect(text).toContain('$3')
    expect(text).toContain('-- "company"."invoices"')
  })
  it('bind each table once, however often it is read', () => {
    const { values } = new GuardedStatements(catalog, schema, sight()).query({
      text: 'select 1 from "company"."invoices" as a, "company"."invoices" as b',
      values: [],
      columns: [],
    })
    expect(values).toHaveLength(1)
  })
  it('cannot read a hidden column by any name', async () => {
    const statements = new GuardedStatements(catalog, schema, sight())
    for (const text of [
      'select credit_limit from "company"."customers" as level',
      'select "company"."customers".credit_limit from "company"."customers"',
      'select to_json(x)->>\'credit_limit\' from "company"."customers" as x where to_json(x)->>\'credit_limit\' is not null',
    ]) {
      const query = statements.query({ text, values: [], columns: [] })
      const outcome = await db.query(query.text).then(
        found => found.rows.length,
        () => 0,
      )
      expect([text, outcome]).toEqual([text, 0])
    }
  })
})

describe('a catalog', () => {
  it('without hidden columns has nothing that is made of them', () => {
    const named: Catalog = {
      ...catalog,
      tables: catalog.tables.map(table =>
        table.name === 'items'
          ? {
              ...table,
              calculated: [
                { name: 'margin', formula: 'price - cost' },
                { name: 'double', formula: 'margin * 2' },
                { name: 'gross', formula: 'price * 1.23' },
              ],
            }
          : table,
      ),
    }
    const sight = sightOf(
      named,
      [{ team: 'a', table: 'items', is: 'hidden', columns: ['cost'] }],
      [{ teams: ['a'], attributes: {} }],
      clock,
    )
    const items = seenCatalog(named, sight).tables.find(each => each.name === 'items')!
    expect(items.columns.some(each => each.name === 'cost')).toBe(false)
    expect(items.calculated!.map(each => each.name)).toEqual(['gross'])
  })
  it('is the very same where nothing is guarded for whoever looks', () => {
    const guards: Guard[] = [{ team: 'a', table: 'items', is: 'hidden', columns: ['cost'] }]
    const sight = sightOf(catalog, guards, [{ teams: ['b'], attributes: {} }], clock)
    expect(sight).toBe(allSeen)
    expect(seenCatalog(catalog, sight)).toBe(catalog)
  })
  it('has a column that one of two teams does not hide', () => {
    const guards: Guard[] = [
      { team: 'a', table: 'items', is: 'hidden', columns: ['cost', 'price'] },
      { team: 'b', table: 'items', is: 'hidden', columns: ['cost'] },
    ]
    const sight = sightOf(catalog, guards, [{ teams: ['a', 'b'], attributes: {} }], clock)
    expect([...sight.hidden.get('items')!]).toEqual(['cost'])
  })
})

describe('guards that cannot be', () => {
  const teams = new Set(['a'])
  const refused = (guard: Guard, all: Guard[] = [guard]) => guardRefusal(guard, catalog, teams, all)
  it.each([
    [{ team: 'x', table: 'items', is: 'records', formula: 'true' }, /team that is not there/],
    [{ team: 'a', table: 'nothing', is: 'records', formula: 'true' }, /no table “nothing”/],
    [{ team: 'a', table: 'items', is: 'records', formula: 'colour = "red"' }, /no field “colour”/],
    [{ team: 'a', table: 'items', is: 'records', formula: 'price' }, /is a test/],
    [{ team: 'a', table: 'items', is: 'records', formula: 'sum(price) > 1' }, /cannot be used/],
    [{ team: 'a', table: 'items', is: 'records', formula: 'code = person.codes' }, /is a list/],
    [{ team: 'a', table: 'items', is: 'records', formula: 'code in (param.codes)' }, /cannot be used/],
    [{ team: 'a', table: 'items', is: 'with', key: 'gone' }, /relation/],
    [{ team: 'a', table: 'items', is: 'hidden', columns: ['id'] }, /is a key/],
    [{ team: 'a', table: 'items', is: 'hidden', columns: ['category_id'] }, /is a key/],
    [{ team: 'a', table: 'items', is: 'hidden', columns: ['colour'] }, /no column “colour”/],
  ] as [Guard, RegExp][])('%j', (guard, sentence) => {
    expect(refused(guard)).toMatch(sentence)
  })
  it('go in circles', () => {
    const self: Guard = { team: 'a', table: 'accounts', is: 'with', key: 'accounts_parent_code_fkey' }
    expect(refused(self)).toMatch(/seen where they are seen/)
  })
  it('show nothing once their column is gone, and it is said', async () => {
    const guards: Guard[] = [{ team: 'a', table: 'invoices', is: 'records', formula: 'branch_code in (person.branches)' }]
    const sight = sightOf(catalog, guards, [{ teams: ['a'], attributes: { branches: ['NQ'] } }], clock)
    expect(sight.faults.join()).toMatch(/no field “branch_code”.*nothing of “invoices” is shown/)
    expect(await asked(new GuardedStatements(catalog, schema, sight), `select id from "${schema}"."invoices"`)).toEqual([])
  })
})
