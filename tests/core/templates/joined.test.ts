import type { PGlite } from '@electric-sql/pglite'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../../core/books/catalog'
import { joinCandidates } from '../../../core/catalog/joins'
import { assembleReport } from '../../../core/compose/assemble'
import { addDetail, addRelated } from '../../../core/definition/edits/levels'
import { isTable } from '../../../core/definition/blocks/table'
import { blocksOf } from '../../../core/definition/walk'
import type { ReportDefinition } from '../../../core/definition/report'
import { readDefinition } from '../../../core/definition/schema'
import { usualFields } from '../../../core/templates/draft'
import { draftKinds } from '../../../core/templates/drafts/layout'
import { draftReport } from '../../../core/templates/drafts/report'
import { Tables } from '../../../core/templates/drafts/tables'
import { putJoined } from '../../../core/templates/joined'
import { composeReport } from '../../pages'
import { demoDatabase } from '../../support'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const levelsOf = (report: ReportDefinition) => assembleReport(readDefinition(report), catalog).tree.levels
const faultsOf = (report: ReportDefinition) => {
  const { tree, layout } = assembleReport(readDefinition(report), catalog)
  return [...tree.problems, ...layout.problems]
}
const bare = (table: string, kind: (typeof draftKinds)[number]) =>
  draftReport(new Tables(catalog), { table, source: 'caisvelho', kind, joins: [] }).definition

describe('what was joined', () => {
  it('can stand on the page of any draft, whatever is joined, and the report is whole', () => {
    let put = 0
    for (const table of ['invoices', 'items', 'receipts', 'supplier_bills', 'stock_levels'])
      for (const kind of draftKinds) {
        const report = bare(table, kind)
        const level = report.dataSets[0]!.root.name
        for (const each of joinCandidates(catalog, table)
          .filter(own => own.origin === 'declared')
          .slice(0, 6)) {
          const name = each.name.replace(/\W+/g, '_')
          const common = { name, table: each.table, on: each.on }
          const fields = usualFields(catalog, each.table, 2)
          const related = each.direction === 'related'
          const joined = related
            ? addRelated(report, level, '', { ...common, fields })
            : addDetail(report, level, { ...common, caption: name, fields })
          const made = putJoined(joined, catalog, levelsOf(joined), related ? { level, record: name } : { level, detail: name })
          if (!made) continue
          put++
          expect([table, kind, name, faultsOf(made)]).toEqual([table, kind, name, []])
          const text = JSON.stringify(made.layouts)
          for (const field of fields) expect(text, `${table} ${kind} ${name}`).toContain(related ? `${name}.${field}` : field)
          expect(made.dataSets).toEqual(joined.dataSets)
        }
      }
    expect(put).toBeGreaterThan(40)
  })

  it('a related record is in columns before the figures, and prints what SQL joins', async () => {
    const report = bare('receipts', 'list')
    const joined = addRelated(report, 'receipt', '', {
      name: 'customer',
      table: 'customers',
      on: [{ from: 'customer_id', to: 'id' }],
      fields: ['name'],
    })
    const made = putJoined(joined, catalog, levelsOf(joined), { level: 'receipt', record: 'customer' })!
    const table = blocksOf(made.layouts[0]!).find(isTable)!
    const line = table.rows.find(row => row.kind === 'line')!
    const at = table.columns.findIndex(column => line.cells[column.id]?.text === '{{ customer.name }}')
    const first = table.columns.findIndex((column, index) => index > 0 && column.style?.align === 'right')
    expect(at).toBeGreaterThan(0)
    expect(at).toBeLessThan(first)
    const { pages } = await composeReport(db, catalog, made, {})
    const texts = new Set(pages.flatMap(page => page.items.flatMap(item => (item.kind === 'text' ? [item.text] : []))))
    const { rows } = await db.query<{ name: string }>('select distinct c.name from receipts r join customers c on c.id = r.customer_id')
    expect(rows.filter(({ name }) => texts.has(name)).length).toBeGreaterThan(100)
  })

  it('leaves pictures out: they are no text', () => {
    const report = bare('items', 'list')
    const [level] = [report.dataSets[0]!.root.name]
    const joined = addRelated(report, level, '', {
      name: 'kind',
      table: 'item_categories',
      on: [{ from: 'category_id', to: 'id' }],
      fields: ['name', 'picture'],
    })
    const made = JSON.stringify(putJoined(joined, catalog, levelsOf(joined), { level, record: 'kind' })!.layouts)
    expect(made).toContain('kind.name')
    expect(made).not.toContain('kind.picture')
  })

  it('has no place where the layout shows nothing of its level', () => {
    const report = bare('receipts', 'list')
    const joined = addRelated(report, 'receipt', '', {
      name: 'customer',
      table: 'customers',
      on: [{ from: 'customer_id', to: 'id' }],
      fields: ['name'],
    })
    const empty = { ...joined, layouts: joined.layouts.map(each => ({ ...each, blocks: [] })) }
    expect(putJoined(empty, catalog, levelsOf(joined), { level: 'receipt', record: 'customer' })).toBeUndefined()
  })
})
