import { beforeAll, describe, expect, it } from 'vitest'
import type { PGlite } from '@electric-sql/pglite'
import { demoDatabase, plainFetch } from '../../support'
import type { Catalog } from '../../../core/books/catalog'
import type { LevelDefinition } from '../../../core/definition/levels'
import type { ReportDefinition } from '../../../core/definition/report'
import { compareText, folded } from '../../../core/value/text'
import { reportModel } from '../../../core/model/model'
import { profileQuery, readProfile } from '../../../core/sql/profile'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})

async function profile(table: string, path: string, more: Partial<LevelDefinition> = {}, search = '') {
  const definition: ReportDefinition = {
    format: 2,
    language: 'en-GB',
    parameters: [],
    layouts: [],
    dataSets: [
      {
        name: 'main',
        source: 'x',
        fields: {},
        root: { name: 'row', table, on: [], fields: [], related: [], details: [], filters: [], sort: [], ...more },
      },
    ],
  }
  const model = reportModel(definition, catalog)
  const { levels } = model.trees[0]!
  const query = profileQuery(
    { levels, catalog: model.catalog, tables: model.tables, schema: 'company', used: [], parameterTypes: {}, parameters: {}, today: 0 },
    0,
    path,
    search,
  )
  return readProfile(levels[0]!.fields.get(path)!.type, await plainFetch(db)(query))
}
const values = async (text: string) => (await db.query<{ x: string | null }>(text)).rows.map(row => row.x)

describe('a profile', () => {
  it('equals a naive count of every column of a table, whatever its type', async () => {
    for (const name of ['invoices', 'customers', 'items', 'fiscal_periods']) {
      for (const column of catalog.tables.find(table => table.name === name)!.columns) {
        const list = await values(`select "${column.name}"::text as x from company."${name}"`)
        const held = list.filter(each => each !== null)
        const found = await profile(name, column.name)
        expect([found.records, found.empty, found.distinct], `${name}.${column.name}`).toEqual([
          list.length,
          list.length - held.length,
          new Set(held).size,
        ])
        const order =
          column.type === 'number'
            ? (a: string, b: string) => Number(a) - Number(b)
            : column.type === 'text'
              ? compareText
              : (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0)
        const sorted = [...held].sort(order)
        if (held.length) expect([found.lowest, found.highest]).toEqual([sorted[0], sorted.at(-1)])
        const counts = new Map<string, number>()
        for (const each of held) counts.set(each, (counts.get(each) ?? 0) + 1)
        expect(found.top).toEqual(
          [...counts]
            .sort((a, b) => b[1] - a[1] || order(a[0], b[0]))
            .slice(0, 30)
            .map(([value, count]) => ({ value, count })),
        )
        if (column.type === 'number')
          expect(Number(found.average)).toBeCloseTo(held.reduce((sum, each) => sum + Number(each), 0) / (held.length || 1), 4)
        const barred = found.bars.reduce((sum, bar) => sum + bar.count, 0)
        expect(barred).toBe(column.type === 'number' || column.type === 'date' ? held.length : 0)
      }
    }
  })

  it('looks at all values, whatever the filters, of related and worked-out fields too', async () => {
    const related = [{ name: 'customer', table: 'customers', on: [{ from: 'customer_id', to: 'id' }], fields: [], related: [] }]
    expect((await profile('invoices', 'customer.name', { related, filters: ['total > 1000000000'] })).records).toBe(
      (await values('select id::text as x from company.invoices')).length,
    )
    const found = await profile('invoices', 'half', { calculated: [{ name: 'half', formula: 'total / 2' }] })
    expect(Number(found.highest)).toBe(Number((await values('select (max(total) / 2)::text as x from company.invoices'))[0]))
  })

  it('finds values without case and accents, with the counts of all records', async () => {
    const names = await values('select name as x from company.customers')
    const found = await profile('customers', 'name', {}, 'SAO telmo')
    expect(found.top.map(each => each.value).sort()).toEqual(
      [...new Set(names.filter(name => folded(name!).includes('sao telmo')))].sort().slice(0, 30),
    )
    expect(found.records).toBe(names.length)
  })
})
