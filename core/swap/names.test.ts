import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { CatalogTable } from '../catalog/types'
import { namedCatalog, namedTables, shownAs, type SourceNames } from './names'
import { NamedStatements } from './statements'

const name = fc.constantFrom('a', 'b', 'c', 'A b', 'a"b', 'c_2', 'b_2')
const table = fc
  .record({ name, columns: fc.uniqueArray(name, { minLength: 1 }) })
  .map((own): CatalogTable => ({
    schema: 's',
    name: own.name,
    columns: own.columns.map(column => ({ name: column, type: 'text', databaseType: 'text', required: false })),
    primaryKey: own.columns.slice(0, 1),
    rowEstimate: 1,
  }))
const tables = fc.uniqueArray(table, { selector: each => each.name, minLength: 1 })
const named = tables.chain(list =>
  fc
    .dictionary(
      name,
      fc
        .constantFrom(...list)
        .chain(own =>
          fc.record({
            table: fc.constantFrom(own.name, ''),
            columns: fc.dictionary(name, fc.constantFrom('', ...own.columns.map(column => column.name))),
          }),
        ),
    )
    .map((said): { list: CatalogTable[]; names: SourceNames } => ({ list, names: { tables: said } })),
)
const doubled = (list: readonly string[]) => list.filter((each, at) => list.indexOf(each) !== at)

describe('a source under the names of a report', () => {
  it('shows every table and column once at least, no two by one name, and nothing in the place of what was left out', () => {
    fc.assert(
      fc.property(named, ({ list, names }) => {
        const shown = namedTables({ tables: list }, names)
        expect(doubled(shown.map(each => each.name))).toEqual([])
        for (const own of list) expect(shown.some(each => each.table === own.name)).toBe(true)
        for (const each of shown) {
          const said = names.tables[each.name]
          if (said) expect(each.table).toBe(said.table)
          for (const own of list.find(other => other.name === each.table)!.columns) expect([...each.columns.values()]).toContain(own.name)
          for (const [column, real] of each.columns) {
            const wanted = said?.columns[column]
            if (wanted !== undefined) expect(real).toBe(wanted)
          }
        }
        const catalog = namedCatalog({ tables: list, foreignKeys: [] }, names)
        expect(catalog.tables.map(each => [each.name, each.columns.map(column => column.name)])).toEqual(
          shown.map(each => [each.name, [...each.columns.keys()]]),
        )
        // and back: a table of the source is found by every name that it has
        for (const each of shown)
          expect(shownAs({ tables: list }, names, { table: each.table }).map(found => found.table)).toContain(each.name)
      }),
    )
  })

  const list: CatalogTable[] = [
    {
      schema: 's',
      name: 'KUNDEN',
      columns: ['NR', 'buyer'].map(column => ({ name: column, type: 'text', databaseType: 'text', required: true })),
      primaryKey: ['NR'],
      rowEstimate: 1,
    },
  ]
  const statements = new NamedStatements(
    { tables: list },
    { tables: { customers: { table: 'KUNDEN', columns: { id: 'NR', buyer: '' } } } },
    'data',
  )
  const select = '(select "NR" as "id", "buyer" as "buyer_2" from "data"."KUNDEN")'

  it('puts the source’s own names into statements, and steps over what is quoted', () => {
    expect(statements.statement(`select '"data"."customers"' from "data"."customers" as "own" -- "data"."customers"`)).toBe(
      `select '"data"."customers"' from ${select} as "own" -- "data"."customers"`,
    )
    expect(statements.statement('select * from "data"."customers"')).toBe(`select * from ${select} as "customers"`)
  })

  it.each([
    ['select * from customers', '', 'select * from customers'],
    ['-- of all\nwith x as (select 1) select * from customers, x', ', ', 'x as (select 1) select * from customers, x'],
    ['/* a */ WITH RECURSIVE x as (select 1) select * from Customers', ', ', 'x as (select 1) select * from Customers'],
  ])('lets the author’s “%s” find its tables', (text, then, rest) => {
    const found = statements.authored(text)
    const recursive = /recursive/i.test(text) ? ' recursive' : ''
    expect(`${found.before}${found.text}`).toBe(`with${recursive} "customers" as ${select}${then || ' '}${rest}`)
  })

  it('stays as it is where a text speaks of none of them', () => {
    expect(statements.authored('select * from customers_of_old')).toEqual({ before: '', text: 'select * from customers_of_old' })
  })
})
