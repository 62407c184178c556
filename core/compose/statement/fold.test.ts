import { expect, it } from 'vitest'
import { foldPage, foldsOf } from './fold'
import type { Box, Page } from '../page'

const row = (rowId: string, y: number, height = 10): Box => ({
  block: 's',
  part: 'line',
  rowId,
  cell: undefined,
  x: 50,
  y,
  width: 400,
  height,
  level: 0,
  row: 0,
})
const text = (words: string, y: number) => ({
  kind: 'text' as const,
  x: 50,
  y,
  text: words,
  font: 'sans' as const,
  size: 8,
  colour: '#000',
})
// a line, the heading of its accounts, two accounts under 6101 of a tree, one beside it, the sum; then a table below and the page foot
const rows: [string, string][] = [
  ['sales', 'Sales'],
  ['costs opens', 'Costs'],
  ['costs 6101 heading', 'Premises'],
  ['costs 6101/6110', 'Rent'],
  ['costs 6101/6115', 'Electricity'],
  ['costs 6101 ends', 'Total premises'],
  ['costs 6145', 'Advertising'],
  ['costs', 'Total costs'],
  ['result', 'Result'],
]
const page: Page = {
  width: 500,
  height: 800,
  overall: 1,
  number: 1,
  record: 0,
  bodyBottom: 760,
  items: [
    ...rows.map(([, words], index) => text(words, 100 + index * 10 + 8)),
    { kind: 'fill', x: 50, y: 160, width: 400, height: 0.5, colour: '#000' },
    text('A table', 300),
    text('page 1', 780),
  ] as Page['items'],
  boxes: [{ ...row('', 100, 90), part: 'block' as const }, ...rows.map(([id], index) => row(id, 100 + index * 10))].map(box => {
    const { rowId, ...rest } = box
    return rowId ? box : rest
  }),
}
const statements = new Set(['s'])
const words = (found: Page) => found.items.flatMap(item => (item.kind === 'text' ? [`${item.text} ${item.y}`] : []))

it('folds a line’s accounts away, and what stands below moves up; the page foot stays', () => {
  const found = foldPage(page, statements, new Set(['s costs']))
  expect(words(found)).toEqual(['Sales 108', 'Total costs 118', 'Result 128', 'A table 240', 'page 1 780'])
  expect(found.boxes.map(box => [box.rowId ?? 'block', box.y, box.height])).toEqual([
    ['block', 100, 30],
    ['sales', 100, 10],
    ['costs', 110, 10],
    ['result', 120, 10],
  ])
  expect(foldsOf(found, statements, new Set(['s costs'])).map(fold => [fold.id, fold.box.rowId, fold.closed])).toEqual([
    ['s costs', 'costs', true],
  ])
})
it('folds an account of a tree with what stands under it', () => {
  const closed = new Set(['s costs/6101'])
  expect(words(foldPage(page, statements, closed)).slice(0, 5)).toEqual([
    'Sales 108',
    'Costs 118',
    'Total premises 128',
    'Advertising 138',
    'Total costs 148',
  ])
  expect(foldsOf(page, statements, new Set()).map(fold => [fold.id, fold.box.rowId])).toEqual([
    ['s costs', 'costs opens'],
    ['s costs/6101', 'costs 6101 heading'],
  ])
  expect(foldsOf(foldPage(page, statements, closed), statements, closed).map(fold => [fold.box.rowId, fold.closed])).toEqual([
    ['costs opens', false],
    ['costs 6101 ends', true],
  ])
})
it('keeps a heading whose sum stands on the next page, so that it can be opened again there', () => {
  const cut = page.boxes.filter(box => box.rowId !== 'costs' && box.rowId !== 'result')
  const first: Page = {
    ...page,
    boxes: cut,
    items: page.items.filter(item => item.kind !== 'text' || !['Total costs', 'Result'].includes(item.text)),
  }
  const found = foldPage(first, statements, new Set(['s costs']))
  expect(words(found).slice(0, 2)).toEqual(['Sales 108', 'Costs 118'])
  expect(foldsOf(found, statements, new Set(['s costs'])).map(fold => [fold.box.rowId, fold.closed])).toEqual([['costs opens', true]])
})
it('leaves a page as it is where nothing is folded, and blocks that are no statements', () => {
  expect(foldPage(page, statements, new Set())).toBe(page)
  expect(foldPage(page, new Set(), new Set(['s costs']))).toBe(page)
})
