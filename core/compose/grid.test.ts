import fc from 'fast-check'
import { expect, it } from 'vitest'
import type { PanelItem } from '../definition/blocks/panel'
import type { TableBlock } from '../definition/blocks/table'
import type { LayoutDefinition } from '../definition/report'
import type { FieldInfo, LevelInfo } from '../formula/typed'
import { columnOf } from '../value/columns'
import { decimal } from '../value/decimal'
import type { DataRecords } from '../value/records'
import { Composer } from './flow'
import { GridMaker } from './grid'
import type { GridRow } from './gridRows'
import { prepareLayout } from './prepare'

const levelOf = (name: string, index: number, parent: number): LevelInfo => ({
  index,
  parent,
  children: index ? [] : [1],
  name,
  caption: name,
  key: ['x'],
  fields: new Map([
    [
      'x',
      {
        level: index,
        path: 'x',
        type: 'number',
        role: 'measure',
        scale: 0,
        caption: 'x',
        record: '',
        column: { name: 'x', type: 'number', databaseType: 'numeric', required: true },
      } satisfies FieldInfo,
    ],
  ]),
  definition: { name, table: name, on: [], fields: [], related: [], details: [], filters: [], sort: [] },
})
const levels = [levelOf('order', 0, -1), levelOf('lines', 1, 0)]
const numbers = (...list: number[]) =>
  columnOf(
    'number',
    list.map(each => decimal(each)),
  )
const data: DataRecords = {
  levels: [
    { count: 2, starts: Int32Array.of(0, 2), columns: { x: numbers(1, 2) } },
    { count: 3, starts: Int32Array.of(0, 2, 3), columns: { x: numbers(10, 20, 30) } },
  ],
}
function rowsOf(blocks: LayoutDefinition['blocks']): GridRow[] {
  const definition: LayoutDefinition = {
    name: 'Page',
    page: { size: 'A4', orientation: 'portrait', margins: { top: 40, right: 40, bottom: 40, left: 40 } },
    blocks,
  }
  const layout = prepareLayout(definition, levels, { parameters: {}, language: 'en' })
  expect(layout.problems).toEqual([])
  const maker = new GridMaker(new Composer(layout, { levels, parameters: {}, today: 0, printed: '28 Nov 2026' }), true)
  return [...maker.rows(data, 'none')].flatMap(event => ('row' in event ? [event.row] : []))
}
const table = (id: string, level: string, columns: string[], more: Partial<TableBlock> = {}): TableBlock => ({
  kind: 'table',
  id,
  level,
  left: 0,
  width: 0,
  after: 0,
  repeatTitles: false,
  columns: columns.map(each => ({ id: each, width: 0 })),
  groups: [],
  rows: [{ id: 'line', kind: 'line', cells: Object.fromEntries(columns.map(each => [each, { text: `${each} {{ x }}` }])) }],
  ...more,
})
const panel = (items: PanelItem[]) => ({ kind: 'panel', id: 'panel', after: 0, items }) as unknown as LayoutDefinition['blocks'][number]
/** No place is written twice. */
const apart = (row: GridRow) => expect(new Set(row.cells.map(cell => cell.column)).size).toBe(row.cells.length)

it('a table in a row keeps its columns apart, also where it has more than the table around it', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 4 }),
      fc.integer({ min: 1, max: 9 }),
      fc.integer({ min: 1, max: 6 }),
      (outer, inner, innermost) => {
        const names = (prefix: string, count: number) => Array.from({ length: count }, (_, at) => `${prefix}${at}`)
        const deepest = table('deepest', 'lines', names('c', innermost))
        const nested = table('nested', 'lines', names('b', inner))
        nested.rows.push({ id: 'more', kind: 'extra', cells: {}, nested: deepest })
        const block = table('outer', 'order', names('a', outer))
        block.rows.push({ id: 'more', kind: 'extra', cells: {}, nested })
        const rows = rowsOf([block])
        rows.forEach(apart)
        const told = rows.flatMap(row => row.cells.map(cell => cell.text))
        for (const [names_, count] of [
          [names('a', outer), 2],
          [names('b', inner), 3],
        ] as const)
          for (const name of names_) expect(told.filter(text => text.startsWith(`${name} `))).toHaveLength(count)
        for (const row of rows) {
          const ids = row.cells.map(cell => cell.id)
          expect([...row.cells].sort((a, b) => a.column - b.column).map(cell => cell.id)).toEqual(ids)
        }
      },
    ),
  )
})

it('boxes side by side stay in their order, none in the place of another, however many there are', () => {
  const box = fc.record({ x: fc.integer({ min: 0, max: 480 }), width: fc.integer({ min: 10, max: 200 }), right: fc.boolean() })
  fc.assert(
    fc.property(fc.array(box, { minLength: 1, maxLength: 12 }), fc.integer({ min: 1, max: 8 }), (boxes, columns) => {
      const items = boxes.map(({ x, width, right }, at): PanelItem => ({
        kind: 'text',
        id: `i${at}`,
        x,
        y: 0,
        width,
        text: `t${at}`,
        ...(right ? { style: { align: 'right' } } : {}),
      }))
      const rows = rowsOf([
        panel(items),
        table(
          'list',
          'order',
          Array.from({ length: columns }, (_, at) => `a${at}`),
        ),
      ])
      rows.forEach(apart)
      const told = rows.filter(row => row.kind === 'panel').flatMap(row => [...row.cells].sort((a, b) => a.column - b.column))
      const wanted = [...items].sort((a, b) => a.x - b.x)
      expect(told.map(cell => cell.id)).toEqual(wanted.map(item => item.id))
    }),
  )
})

it('lines that speak of page numbers are left out of a sheet, the moment of its making is not', () => {
  const item = (id: string, y: number, text: string): PanelItem => ({ kind: 'text', id, x: 0, y, width: 200, text })
  const rows = rowsOf([
    panel([
      item('a', 0, 'Register\nPage {{ page.number }} of {{ page.count }}'),
      item('b', 60, '{{ page.overall }} / {{ page.overallCount }}'),
      item('c', 90, 'Printed {{ page.printed }}'),
    ]),
  ])
  expect(rows.flatMap(row => row.cells.map(cell => cell.text))).toEqual(['Register', 'Printed 28 Nov 2026'])
})
