import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Catalog } from '../books/catalog'
import type { CatalogColumn, CatalogTable } from '../catalog/types'
import { blankLevel, keepTable, type SqlTable, type StackTable } from '../definition/edits/ownTables'
import { addDataSet } from '../definition/edits/dataSets'
import type { LevelDefinition } from '../definition/levels'
import type { ReportDefinition } from '../definition/report'
import { readDefinition } from '../definition/schema'
import { listOfTable } from '../templates/draft'
import type { ValueType } from '../value/value'
import { newSummary, summaryFault } from './derive'
import { reportModel } from './model'
import { splitText } from './split'
import { rootOf, stackedOn, typeOfColumn } from './stack'

const column = (name: string, type: ValueType = 'text'): CatalogColumn => ({ name, type, databaseType: type, required: false })
const table = (name: string, primaryKey: string[], columns: CatalogColumn[]): CatalogTable => ({
  schema: 'harbour',
  name,
  columns,
  primaryKey,
  rowEstimate: 10,
})
const catalog: Catalog = {
  tables: [
    table('berths', ['code'], [column('code'), column('quay'), column('length', 'number')]),
    table('visits', ['id'], [column('id', 'number'), column('berth'), column('ship'), column('day', 'date'), column('dues', 'number')]),
    table(
      'charges',
      ['visit_id', 'line'],
      [column('visit_id', 'number'), column('line', 'number'), column('what'), column('sum', 'number')],
    ),
  ],
  foreignKeys: [
    { name: 'berth', from: { table: 'visits', columns: ['berth'] }, to: { table: 'berths', columns: ['code'] } },
    { name: 'visit', from: { table: 'charges', columns: ['visit_id'] }, to: { table: 'visits', columns: ['id'] } },
  ],
}
const charges: LevelDefinition = { ...blankLevel('charges', 'charges'), on: [{ from: 'id', to: 'visit_id' }], fields: ['what', 'sum'] }
/** Visits of ships with their charges. */
const visits = (): ReportDefinition => {
  const made = listOfTable(catalog, 'visits', 'port', 'Visits')
  const [set] = made.dataSets
  return { ...made, dataSets: [{ ...set!, root: { ...set!.root, name: 'visits', fields: ['ship', 'day', 'dues'], details: [charges] } }] }
}
const problems = (report: ReportDefinition) => reportModel(report, catalog).trees.flatMap(tree => tree.problems.map(each => each.sentence))
const flat: SqlTable = {
  kind: 'sql',
  name: 'flat',
  text: 'select',
  columns: [
    { name: 'number', type: 'text', databaseType: 'text' },
    { name: 'ship name', type: 'text', databaseType: 'text' },
    { name: 'what', type: 'text', databaseType: 'text' },
    { name: 'sum', type: 'number', databaseType: 'numeric' },
  ],
  key: [],
}

describe('a text that is split', () => {
  it('stands as headers with their rows; each of its columns once, and nothing is missing', () => {
    fc.assert(
      fc.property(fc.shuffledSubarray(['number', 'ship name', 'what', 'sum'], { minLength: 1, maxLength: 3 }), fc.nat(2), (chosen, at) => {
        const key = chosen.slice(0, Math.max(1, chosen.length - at))
        const constants = chosen.slice(key.length)
        const made = splitText(visits(), flat, { key, constants })
        expect(problems(made)).toEqual([])
        readDefinition(made)
        const { root } = made.dataSets.at(-1)!
        const [rows] = root.details
        const word = (name: string) => name.replace(' ', '_')
        expect(root.fields).toEqual(chosen.map(word))
        expect([...chosen, ...rows!.fields].sort()).toEqual(flat.columns.map(each => each.name).sort())
        expect(rows!.on).toEqual(key.map(name => ({ from: word(name), to: name })))
      }),
    )
  })
  it('a second time takes other names, and one that was kept before is not called twice', () => {
    const choice = { key: ['number'], constants: [] }
    const once = splitText(visits(), flat, choice)
    const twice = splitText(once, flat, { ...choice, before: 'flat' })
    const names = [...twice.dataSets, ...twice.tables!].map(each => each.name)
    expect(new Set(names).size).toBe(names.length)
    expect(twice.tables!.filter(each => each.name === 'flat')).toHaveLength(1)
    expect(problems(twice)).toEqual([])
  })
})

describe('a table that is kept', () => {
  it('comes into view as a data set; one that was there already stays where it is used, under its new name', () => {
    const made = keepTable(visits(), flat)
    expect(made.dataSets.at(-1)!.root).toMatchObject({ table: '@flat', fields: ['number', 'ship name', 'what', 'sum'] })
    const renamed = keepTable(made, { ...flat, name: 'wide' }, { before: 'flat' })
    expect(renamed.dataSets.length).toBe(made.dataSets.length)
    expect(renamed.dataSets.at(-1)!.root.table).toBe('@wide')
    expect(problems(renamed)).toEqual([])
  })
  it('a summary under a level hangs on what links it', () => {
    const { levels } = reportModel(visits(), catalog).trees[0]!
    const { table: summary } = newSummary(visits(), levels, { of: 'charges', under: true })
    const made = keepTable(visits(), summary, { under: { level: 'visits', on: charges.on } })
    expect(problems(made)).toEqual([])
    const detail = made.dataSets[0]!.root.details.at(-1)!
    expect(detail).toMatchObject({ table: '@charges_summary', on: [{ from: 'id', to: 'visit_id' }], fields: [] })
  })
})

describe('a summary', () => {
  it('of all records of a level brings the records above and their filters along', () => {
    const report = visits()
    report.dataSets[0]!.root.filters = ['dues > 0', 'has(charges)']
    const { levels } = reportModel(report, catalog).trees[0]!
    const { table: summary, left } = newSummary(report, levels, { of: 'charges' })
    expect(summary.base.related.map(each => [each.name, each.required])).toEqual([['visits', true]])
    expect(summary.base.filters).toEqual(['visits.dues > 0'])
    expect(left).toEqual(['has(charges)'])
    expect(problems({ ...report, tables: [summary] })).toEqual([])
  })
  it('says what is wrong with a formula; a measure knows only those before it', () => {
    const { levels } = reportModel(visits(), catalog).trees[0]!
    const fault = (formula: string, earlier?: string[]) =>
      summaryFault(
        formula,
        levels,
        {},
        earlier?.map(name => ({ name })),
      )
    expect(fault('ship')).toBe('')
    expect(fault('')).toBe('')
    expect(fault('shipp')).toMatch(/shipp/)
    expect(fault('sum(dues)', [])).toBe('')
    expect(fault('all / 2', ['all'])).toBe('')
    expect(fault('all / 2', [])).toMatch(/all/)
    expect(fault('sum(dues')).toMatch(/./)
  })
})

describe('stacked sets', () => {
  const report = addDataSet(visits(), 'quays', { ...blankLevel('quays', 'berths'), fields: ['code', 'quay', 'length'] })
  const model = reportModel(report, catalog)
  const empty: StackTable = { kind: 'stack', name: 'all', origin: 'kind', columns: [], parts: [] }
  const first = report.dataSets[0]!.name
  it('take their columns from the first, and of the next what is named or typed alike, each field once at most by its type', () => {
    const one = stackedOn(report, model, empty, first)
    expect(one.columns).toEqual(['ship', 'day', 'dues', 'berth'])
    expect(one.parts[0]!.fields).toEqual({ ship: 'ship', day: 'day', dues: 'dues', berth: 'berth' })
    const two = stackedOn(report, model, one, 'quays')
    expect(two.columns).toEqual(one.columns)
    // a date has no counterpart among berths
    expect(two.parts[1]!.fields).toEqual({ ship: 'code', dues: 'length', berth: 'quay' })
    for (const [name, field] of Object.entries(two.parts[1]!.fields))
      expect(rootOf(report, model, 'quays')!.fields.get(field)!.type).toBe(typeOfColumn(report, model, one, name))
    expect(problems({ ...report, tables: [two] })).toEqual([])
  })
  it('of a set that is not there stay as they are', () => {
    expect(stackedOn(report, model, empty, 'nothing')).toBe(empty)
  })
})
