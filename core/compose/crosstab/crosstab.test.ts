import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Catalog } from '../../books/catalog'
import type { AxisGroup, CrosstabBlock, CrosstabMeasure } from '../../definition/blocks/crosstab'
import { swapAxes } from '../../definition/edits/crosstab'
import { readDefinition } from '../../definition/schema'
import { formatVersion, type ReportDefinition } from '../../definition/report'
import { columnOf } from '../../value/columns'
import { decimal } from '../../value/decimal'
import { numberFormat } from '../../value/numberFormat'
import type { DataRecords } from '../../value/records'
import { assembleReport } from '../assemble'
import { earlyOrder } from '../early'
import { Composer } from '../flow'
import { textWidth } from '../fonts'
import type { Page } from '../page'
import { laidCrosstab } from './lay'
import type { PreparedCrosstab } from './prepare'

const column = (name: string, type: 'number' | 'text' | 'date', scale?: number) => ({
  name,
  type,
  databaseType: type,
  required: false,
  ...(scale === undefined ? {} : { scale }),
})
const catalog: Catalog = {
  tables: [
    {
      schema: 'x',
      name: 'sales',
      primaryKey: ['id'],
      rowEstimate: 0,
      columns: [
        column('id', 'number', 0),
        column('town', 'text'),
        column('seller', 'text'),
        column('kind', 'text'),
        column('amount', 'number', 2),
      ],
    },
  ],
  foreignKeys: [],
}
const group = (by: string, more: Partial<AxisGroup> = {}): AxisGroup => ({
  id: by,
  by,
  order: { by: 'name', descending: false },
  total: 'after',
  ...more,
})
const measure = (id: string, formula: string, more: Partial<CrosstabMeasure> = {}): CrosstabMeasure => ({ id, formula, ...more })
const block = (more: Partial<CrosstabBlock>): CrosstabBlock => ({
  kind: 'crosstab',
  id: 'cross',
  level: 'sales',
  left: 0,
  width: 0,
  after: 0,
  rows: [group('town')],
  columns: [group('kind')],
  measures: [measure('figure', 'sum(amount)')],
  wide: 'down',
  repeatTitles: true,
  ...more,
})
const report = (own: CrosstabBlock): ReportDefinition => ({
  format: formatVersion,
  language: 'en',
  parameters: [],
  dataSets: [
    {
      name: 'main',
      source: 's',
      fields: {},
      root: { name: 'sales', table: 'sales', on: [], fields: [], related: [], details: [], filters: [], sort: [] },
    },
  ],
  layouts: [
    { name: 'Only', page: { size: 'A4', orientation: 'portrait', margins: { top: 40, right: 40, bottom: 40, left: 40 } }, blocks: [own] },
  ],
})

interface Sale {
  town: string
  seller: string
  kind: string
  /** cents */
  amount: number | null
}
const sales = fc.array(
  fc.record({
    town: fc.constantFrom('Aveiro', 'Brest', 'Nordvåg'),
    seller: fc.constantFrom('Ana', 'Kari', 'Yann'),
    kind: fc.constantFrom('anchor', 'rope', 'buoy', 'shackle'),
    amount: fc.option(fc.integer({ min: -50_000, max: 100_000 }), { freq: 8 }),
  }),
  { minLength: 1, maxLength: 50 },
)
const records = (list: readonly Sale[]): DataRecords => ({
  levels: [
    {
      count: list.length,
      starts: Int32Array.of(0, list.length),
      columns: {
        id: columnOf(
          'number',
          list.map((_, at) => decimal(at)),
        ),
        town: columnOf(
          'text',
          list.map(each => each.town),
        ),
        seller: columnOf(
          'text',
          list.map(each => each.seller),
        ),
        kind: columnOf(
          'text',
          list.map(each => each.kind),
        ),
        amount: columnOf(
          'number',
          list.map(each => (each.amount === null ? null : decimal(each.amount, 2))),
        ),
      },
    },
  ],
})

function laid(own: CrosstabBlock, list: readonly Sale[]) {
  const definition = report(own)
  const assembled = assembleReport(definition, catalog)
  expect([...assembled.tree.problems, ...assembled.layout.problems]).toEqual([])
  const composer = new Composer(assembled.layout, { levels: assembled.tree.levels, parameters: {}, today: 0, boxes: true })
  composer.values.use(records(list))
  const found = laidCrosstab(assembled.layout.blocks[0] as PreparedCrosstab, composer)
  return { ...found, composer, data: records(list) }
}
/** All cells as they are printed, by the ids of row and column. */
function cells(own: CrosstabBlock, list: readonly Sale[]): Map<string, string> {
  const found = new Map<string, string>()
  for (const { rows } of laid(own, list).parts)
    for (const { row } of rows)
      for (const cell of row.cells) {
        const [part] = cell.text.lines[0] ?? []
        const text = !part ? '' : 'print' in part ? part.print(null) : part.literal
        if (!cell.id.startsWith('title ')) found.set(`${row.row.id} | ${cell.id}`, text)
      }
  return found
}

const print = numberFormat('#,##0.00', 'en')
const cents = (value: number) => print(decimal(value, 2))
const some = (list: readonly Sale[]) => list.flatMap(each => (each.amount === null ? [] : [each.amount]))
const exact = (part: number, by: number) => Number(decimal(Math.round((part / by) * 100)).units)
/** Each total by a naive loop, in hundredths; nothing where there is nothing to count. */
const naive: Record<string, (list: readonly Sale[]) => number | undefined> = {
  'sum(amount)': list => some(list).reduce((sum, each) => sum + each, 0),
  'count(sales)': list => list.length * 100,
  'distinct(seller)': list => new Set(list.map(each => each.seller)).size * 100,
  'min(amount)': list => (some(list).length ? Math.min(...some(list)) : undefined),
  'max(amount)': list => (some(list).length ? Math.max(...some(list)) : undefined),
  'median(amount) * 2': list => {
    const own = some(list).sort((a, b) => a - b)
    return own.length ? own[Math.floor((own.length - 1) / 2)]! + own[Math.ceil((own.length - 1) / 2)]! : undefined
  },
  'count(sales, where: amount > 100) / count(sales)': list => exact(list.filter(each => (each.amount ?? 0) > 10_000).length, list.length),
}
const axis = (list: readonly Sale[], by: 'town' | 'kind') => [...new Set(list.map(each => each[by]))].sort()

describe('a crosstab', () => {
  it('is checked as a definition', () => {
    expect(readDefinition(report(block({})))).toEqual(report(block({})))
    expect(() => readDefinition(report(block({ wide: 'sideways' as 'down' })))).toThrow(/wide/)
  })

  it('needs all records for its first page', () => expect(earlyOrder(assembleReport(report(block({})), catalog).layout)).toBeUndefined())

  it('holds, in every cell and margin, what a naive loop over its records gives, for every kind of total', () => {
    fc.assert(
      fc.property(sales, fc.constantFrom(...Object.keys(naive)), (list, formula) => {
        const found = cells(block({ measures: [measure('figure', formula, { format: '#,##0.00' })] }), list)
        const expected = new Map<string, string>()
        for (const town of [...axis(list, 'town'), undefined])
          for (const kind of [...axis(list, 'kind'), undefined]) {
            const own = list.filter(each => (town ?? each.town) === each.town && (kind ?? each.kind) === each.kind)
            const value = own.length ? naive[formula]!(own) : undefined
            const [row, across] = [town ? `at /${encodeURIComponent(town)}` : 'total ', kind ? `at /${kind} figure` : 'total  figure']
            if (value !== undefined) expected.set(`${row} | ${across}`, cents(value))
          }
        // a ratio is printed rounded: to hundredths, as the loop has it
        expect([...found].filter(([, text]) => text !== '').sort()).toEqual([...expected].sort())
      }),
      { numRuns: 150 },
    )
  })

  it('gives the same figures where its axes are swapped, whatever they are seen as', () => {
    const looks = ['plain', 'shareOfRow', 'shareOfColumn', 'shareOfAll', 'running', 'difference', 'percent'] as const
    fc.assert(
      fc.property(sales, fc.constantFrom(...looks), (list, look) => {
        const own = block({ rows: [group('town'), group('seller')], measures: [measure('figure', 'sum(amount)', { look })] })
        const [turned] = swapAxes(report(own), 'cross').layouts[0]!.blocks as CrosstabBlock[]
        const other = new Map(
          [...cells(turned!, list)].map(([key, text]) => {
            const [row, across] = key.split(' | ') as [string, string]
            return [`${across.replace(/ figure$/, '')} | ${row} figure`, text]
          }),
        )
        expect([...other].sort()).toEqual([...cells(own, list)].sort())
      }),
      { numRuns: 60 },
    )
  })

  it('shows shares, changes against the group before, and what has come together, of the figures themselves', () => {
    const list: Sale[] = [
      { town: 'Aveiro', seller: 'Ana', kind: 'anchor', amount: 1000 },
      { town: 'Aveiro', seller: 'Ana', kind: 'buoy', amount: 3000 },
      { town: 'Brest', seller: 'Ana', kind: 'anchor', amount: 4000 },
      { town: 'Brest', seller: 'Kari', kind: 'rope', amount: 2000 },
    ]
    const seen = (look: CrosstabMeasure['look'], formula = 'sum(amount)', along?: 'rows') =>
      Object.fromEntries(cells(block({ measures: [measure('f', formula, { look, ...(along ? { along } : {}) })] }), list))
    expect(seen('shareOfRow')).toMatchObject({ 'at /Aveiro | at /anchor f': '25.0 %', 'at /Aveiro | total  f': '100.0 %' })
    expect(seen('shareOfColumn')).toMatchObject({ 'at /Aveiro | at /anchor f': '20.0 %', 'total  | at /anchor f': '100.0 %' })
    expect(seen('shareOfAll')).toMatchObject({ 'at /Brest | at /rope f': '20.0 %', 'total  | total  f': '100.0 %' })
    expect(seen('difference')).toMatchObject({ 'at /Aveiro | at /buoy f': '20.00', 'total  | at /buoy f': '−20.00' })
    expect(seen('difference')['at /Aveiro | at /anchor f']).toBe('')
    expect(seen('percent', 'sum(amount)', 'rows')).toMatchObject({ 'at /Brest | at /anchor f': '300.0 %' })
    expect(seen('running')).toMatchObject({
      'at /Brest | at /buoy f': '40.00',
      'at /Brest | at /rope f': '60.00',
      'total  | at /rope f': '100.00',
    })
    // different sellers are counted over all that has come together, not added up
    expect(seen('running', 'distinct(seller)')).toMatchObject({
      'at /Brest | at /anchor f': '1',
      'at /Brest | at /rope f': '2',
      'total  | at /rope f': '2',
    })
  })

  it('never adds amounts of several currencies up in silence: a line for each, no share of them, or a notice', () => {
    const list: Sale[] = [
      { town: 'Aveiro', seller: 'EUR', kind: 'anchor', amount: 1000 },
      { town: 'Aveiro', seller: 'GBP', kind: 'rope', amount: 3000 },
      { town: 'Brest', seller: 'EUR', kind: 'rope', amount: 500 },
    ]
    const run = (look: CrosstabMeasure['look'], fields: ReportDefinition['dataSets'][0]['fields']) => {
      const plain = report(block({ measures: [measure('f', 'sum(amount)', { look })] }))
      const definition = { ...plain, dataSets: [{ ...plain.dataSets[0]!, fields }] }
      const [table] = catalog.tables
      const money = { ...table!, columns: [...table!.columns, column('currency_code', 'text')] }
      const assembled = assembleReport(definition, { ...catalog, tables: [money] })
      const composer = new Composer(assembled.layout, { levels: assembled.tree.levels, parameters: {}, today: 0 })
      const data = records(list)
      data.levels[0]!.columns.currency_code = data.levels[0]!.columns.seller!
      composer.values.use(data)
      const { parts } = laidCrosstab(assembled.layout.blocks[0] as PreparedCrosstab, composer)
      const rows = parts[0]!.rows.map(each => each.row)
      const cell = (row: string, id: string) => rows.find(each => each.row.id === row)!.cells.find(each => each.id === id)!.text.lines
      return { cell, notices: composer.notices().map(each => each.sentence) }
    }
    const apart = { 'sales.amount': { currency: 'currency_code' } }
    expect(run('plain', apart).cell('at /Aveiro', 'total  f')).toHaveLength(2)
    expect(run('plain', apart).cell('at /Brest', 'total  f')).toHaveLength(1)
    expect(run('shareOfRow', apart).cell('at /Aveiro', 'at /anchor f')).toEqual([[]])
    expect(run('running', apart).cell('at /Aveiro', 'at /rope f')).toEqual([[]])
    expect(run('plain', apart).notices).toEqual([])
    expect(run('plain', {}).notices).toEqual(['“Amount” adds up amounts of 2 currencies.'])
  })

  it('is one page, or goes over pages side by side with its row titles on each, or is written smaller', () => {
    const list = Array.from({ length: 400 }, (_, at): Sale => ({
      town: `Town ${String(at % 20).padStart(2, '0')}`,
      seller: 'Ana',
      kind: `Kind of goods ${String(at % 40).padStart(2, '0')}`,
      amount: at * 100_000,
    }))
    const pages = (own: CrosstabBlock): Page[] => {
      const { composer, data } = laid(own, list)
      return [...composer.add(data), ...composer.end()]
    }
    const texts = (page: Page) => page.items.flatMap(item => (item.kind === 'text' ? [item.text] : []))
    const several = pages(block({}))
    expect(several.length).toBeGreaterThan(2)
    for (const page of several) expect(texts(page).filter(text => text.startsWith('Town'))).toHaveLength(21)
    const kinds = several.flatMap(page => texts(page).filter(text => /^\d\d$/.test(text)))
    expect(kinds).toHaveLength(40)
    // nothing stands beyond the right edge of the text
    expect(several[0]!.boxes.length).toBeGreaterThan(100)
    for (const page of several) for (const box of page.boxes) expect(box.x + box.width).toBeLessThanOrEqual(page.width - 40 + 0.5)
    // all of it on one page as small as may be, else over fewer than at its own size
    expect(pages(block({ wide: 'smaller' })).length).toBeLessThan(several.length)
    const few = list.filter(each => each.kind < 'Kind of goods 10')
    const own = laid(block({ wide: 'smaller' }), few)
    expect([...own.composer.add(own.data), ...own.composer.end()]).toHaveLength(1)
    expect(own.composer.notices().map(each => each.sentence)).toEqual([
      expect.stringMatching(/^The crosstab is written at [67]\d % of its size to fit the page\.$/),
    ])
    // across and then down: each part of the rows of a page before the rows after them
    const long = Array.from({ length: 1600 }, (_, at): Sale => ({ ...list[at % 400]!, town: `Town ${String(at % 80).padStart(2, '0')}` }))
    const order = (wide: CrosstabBlock['wide']) => {
      const found = laid(block({ wide }), long)
      return [...found.composer.add(found.data), ...found.composer.end()].map(page => texts(page).find(text => text.startsWith('Town ')))
    }
    const [down, across] = [order('down'), order('across')]
    expect(down.slice(0, 2)).toEqual(['Town 00', down[1]])
    expect(down[1]).not.toBe('Town 00')
    expect(across.slice(0, 2)).toEqual(['Town 00', 'Town 00'])
    expect([...across].sort()).toEqual([...down].sort())
  })

  it('turns titles that are longer than their figures where not all fits, and stands on fewer pages for it', () => {
    const list = (name: string) =>
      Array.from({ length: 200 }, (_, at): Sale => ({
        town: `Town ${at % 10}`,
        seller: 'Ana',
        kind: `${name}${String.fromCharCode(65 + (at % 20))}`,
        amount: 100,
      }))
    const drawn = (name: string) => {
      const { composer, data } = laid(block({ columns: [group('kind', { total: 'none' })] }), list(name))
      const pages = [...composer.add(data), ...composer.end()]
      const titles = pages.flatMap(page =>
        page.items.flatMap(item => (item.kind === 'text' && item.text.startsWith(name) ? [{ ...item, page }] : [])),
      )
      return { pages, titles }
    }
    const short = drawn('K')
    expect(short.titles.some(item => item.rotated)).toBe(false)
    const long = drawn('Antifoulingpaint')
    expect(long.titles).toHaveLength(20)
    expect(long.titles.every(item => item.rotated)).toBe(true)
    expect(long.pages).toHaveLength(short.pages.length)
    // each stands over its figures, and whole within the rows of titles
    for (const { x, y, page, text, font, size } of long.titles) {
      const box = page.boxes.find(
        each =>
          each.part === 'titles' && each.cell && x > each.x && x - size < each.x + each.width && y > each.y && y <= each.y + each.height,
      )!
      expect(box, text).toBeDefined()
      expect(y - textWidth(text, font, size)).toBeGreaterThanOrEqual(box.y - 0.5)
    }
    // what is too long even so is broken into lines as before
    expect(drawn(`${'Antifoulingpaint'.repeat(3)} `).titles.some(item => item.rotated)).toBe(false)
  })
})
