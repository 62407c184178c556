import { ownContext } from '../access/context'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { stringify } from 'csv-stringify/sync'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { isPanel } from '../../core/definition/blocks/panel'
import { isTable } from '../../core/definition/blocks/table'
import { blocksOf } from '../../core/definition/walk'
import { demoData, temporaryFolder, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import { makeDraft } from './draft'

let app: Estante
beforeAll(async () => {
  app = await openEstante({ folder: demoData() })
}, 60_000)
afterAll(() => app?.close())

const source = () => app.sources.get('').id
const file = (name: string, rows: readonly (readonly string[])[]) => {
  const path = join(mkdtempSync(join(temporaryFolder(), 'draft-')), name)
  writeFileSync(path, stringify(rows as string[][]))
  return { path, name }
}
/** Number of rows and what they print, of a run of a definition nobody has saved. */
const run = async (definition: Parameters<Estante['checkedInput']>[2]) =>
  app.pool.run(tester, await app.checkedInput(tester, 'Draft', definition, {}), {
    format: 'pdf',
    file: join(temporaryFolder(), 'draft.pdf'),
  } as never)

describe('a draft of a table of the demo', () => {
  it('is of the kind that suits it, and runs as it is', async () => {
    for (const [table, kind] of [
      ['invoices', 'document'],
      ['orders', 'document'],
      ['supplier_bills', 'document'],
      ['journals', 'document'],
      ['receipts', 'groups'],
      ['stock_levels', 'groups'],
      ['items', 'groups'],
      ['customers', 'groups'],
    ] as const)
      expect([table, (await makeDraft(tester, app, { source: source(), table })).kind]).toEqual([table, kind])
    const { definition } = await makeDraft(tester, app, { source: source(), table: 'orders' })
    const result = await run(definition)
    expect(result.pages).toBeGreaterThan(100)
  })

  it('knows from the rows what a name does not tell: per cents, kinds of documents, columns that say nothing', async () => {
    const { definition } = await makeDraft(tester, app, { source: source(), table: 'invoices' })
    expect(definition.dataSets[0]!.fields['taxes.rate']).toEqual({ format: "0.##' %'" })
    const texts = definition.layouts.flatMap(layout =>
      blocksOf(layout).flatMap(block => (isPanel(block) ? block.items.flatMap(item => (item.kind === 'text' ? [item.text] : [])) : [])),
    )
    expect(texts.some(text => text.includes('upper(left(kind, 1))') && text.includes('{{ number }}'))).toBe(true)
    // few lines have an account of their own: it is no column of theirs
    const lines = definition.layouts.flatMap(blocksOf).find(block => isTable(block) && block.level === 'lines')
    expect(isTable(lines) && lines.columns.some(column => column.id.startsWith('account'))).toBe(false)
  })

  it('says what is not there', async () => {
    await expect(makeDraft(tester, app, { source: source(), table: 'invoces' })).rejects.toThrow('There is no table “invoces”')
    await expect(
      makeDraft(tester, app, { source: source(), table: 'invoices', joins: [{ level: 'invoice', table: 'items' }] }),
    ).rejects.toThrow('No key or relation joins “items” to the level “invoice”')
  })
})

it('over files without any keys, relations that hold for the rows are found, joined, and kept with the source', async () => {
  const members = [
    ['code', 'name', 'street', 'town', 'zip'],
    ...Array.from({ length: 30 }, (_, at) => [`M-${100 + at}`, `Member ${at}`, `Quay ${at}`, 'Port', `9${100 + at}`]),
  ]
  const bills = [
    ['number', 'member_code', 'bill_date', 'total'],
    ...Array.from({ length: 200 }, (_, at) => [`B-${1000 + at}`, `M-${100 + (at % 30)}`, `2026-0${1 + (at % 9)}-15`, `${at * 2}.50`]),
  ]
  // a column that is called as if it pointed there, and holds something else
  const strangers = [['note', 'member_code'], ...Array.from({ length: 50 }, (_, at) => [`n${at}`, `X-${at}`])]
  const { id } = await app.addFiles(tester, 'Club', [
    file('members.csv', members),
    file('bills.csv', bills),
    file('strangers.csv', strangers),
  ])
  const before = (await app.sources.catalog(ownContext, id)).catalog.foreignKeys.length
  const { definition, kind } = await makeDraft(tester, app, { source: id, table: 'bills' })
  expect(kind).toBe('groups')
  expect(definition.dataSets[0]!.root.related.map(each => each.table)).toEqual(['members'])
  const { foreignKeys } = (await app.sources.catalog(ownContext, id)).catalog
  expect(foreignKeys.slice(before).map(key => [key.from.table, key.from.columns, key.to.table, key.origin])).toEqual([
    ['bills', ['member_code'], 'members', 'kept'],
  ])
  const [list] = definition.layouts.flatMap(blocksOf).filter(block => isTable(block))
  expect(list && list.groups.map(group => group.by)).toEqual(['member.name'])
  expect((await run(definition)).pages).toBeGreaterThan(2)
  const lost = await makeDraft(tester, app, { source: id, table: 'strangers' })
  expect(lost.definition.dataSets[0]!.root.related).toEqual([])
})
