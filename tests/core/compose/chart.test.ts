import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { changeChart, proposeChart } from '../../../core/definition/edits/chart'
import { removeLine, setLine, statementNamed } from '../../../core/definition/edits/statement'
import type { ChartBlock } from '../../../core/definition/blocks/chart'
import { findBlock } from '../../../core/definition/walk'
import { statement } from '../../../demo/reports/statements'
import { type ChartData, drawChart } from '../../../core/compose/chart'
import type { PageItem } from '../../../core/compose/page'
import { themes } from '../../../core/compose/themes'

const box = { x: 40, y: 100, width: 400, height: 150 }
const data = (series: ChartData['series'], stacked = false): ChartData => ({
  categories: series[0]!.values.map((_, index) => `C ${index + 1}`),
  series,
  stacked,
  tick: value => String(value),
})
const one = (values: (number | null)[], form: 'bars' | 'lines' | 'areas' = 'bars', colour = '#123456') => ({
  name: 'One',
  form,
  colour,
  values,
  printed: values.map(String),
})
const draw = (drawn: ChartData, more = {}) => drawChart(drawn, box, { theme: themes[0]!, legend: true, figures: false, ...more })
type Fill = Extract<PageItem, { kind: 'fill' }>
const bars = (items: PageItem[], colour = '#123456') =>
  items.filter((item): item is Fill => item.kind === 'fill' && item.colour === colour && item.height > 0.01 && item.width !== 8)
const texts = (items: PageItem[]) => items.flatMap(item => (item.kind === 'text' ? [item] : []))
/** heights of the marks of the axis, by their figure */
const axis = (items: PageItem[]) =>
  texts(items)
    .filter(item => /^-?\d+(\.\d+)?$/.test(item.text) && item.x < 75)
    .map(item => [Number(item.text), item.y] as const)
    .sort((a, b) => a[0] - b[0])

describe('bars', () => {
  const value = fc.integer({ min: -100_000, max: 100_000 })
  it('are as high as their figures say on the axis beside them, and stay within the box', () => {
    fc.assert(
      fc.property(fc.array(value, { minLength: 1, maxLength: 13 }), values => {
        const items = draw(data([one(values)]))
        const marks = axis(items)
        const [[low, lowY], [high, highY]] = [marks[0]!, marks.at(-1)!]
        const perPoint = (high - low) / (lowY - highY)
        const found = bars(items)
        expect(found).toHaveLength(values.filter(each => Math.abs(each) / perPoint > 0.01).length)
        const left = values.filter(each => Math.abs(each) / perPoint > 0.01)
        found.forEach((bar, index) =>
          expect(Math.abs(bar.height * perPoint - Math.abs(left[index]!))).toBeLessThan(Math.max(1e-6, Math.abs(high - low) * 1e-9)),
        )
        for (const item of items) {
          if (item.kind !== 'fill') continue
          expect(item.x).toBeGreaterThanOrEqual(box.x - 1e-9)
          expect(item.x + item.width).toBeLessThanOrEqual(box.x + box.width + 1e-9)
          expect(item.y + item.height).toBeLessThanOrEqual(box.y + box.height + 1e-9)
        }
      }),
    )
  })
  it('on one another come to the sum of what is positive above zero, and of what is negative below it', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(value, value, value), { minLength: 1, maxLength: 6 }), rows => {
        const colours = ['#111111', '#222222', '#333333']
        const items = draw(
          data(
            colours.map((colour, place) => ({ ...one(rows.map(row => row[place]!)), colour })),
            true,
          ),
        )
        const marks = axis(items)
        const [[low, lowY], [high, highY]] = [marks[0]!, marks.at(-1)!]
        const perPoint = (high - low) / (lowY - highY)
        const drawn = colours.flatMap(colour => bars(items, colour)).reduce((sum, bar) => sum + bar.height, 0) * perPoint
        const wanted = rows.flat().reduce((sum, each) => sum + Math.abs(each), 0)
        expect(Math.abs(drawn - wanted)).toBeLessThan(Math.abs(high - low) * 0.001)
      }),
    )
  })
})

it('a line passes through its points and has a gap where there is no figure', () => {
  const items = draw(data([one([10, null, 30, 20], 'lines')]))
  const [outline, dots] = items.flatMap(item => (item.kind === 'shapes' ? item.shapes : []))
  // a dot of radius 2 at each figure: it begins at its right edge
  const centres = dots!.path.flatMap(step => (step[0] === 'M' ? [[step[1] - 2, step[2]]] : [])) as [number, number][]
  expect(centres).toHaveLength(3)
  const marks = axis(items)
  const at = (figure: number) =>
    marks[0]![1] + ((figure - marks[0]![0]) / (marks.at(-1)![0] - marks[0]![0])) * (marks.at(-1)![1] - marks[0]![1])
  centres.forEach(([, y], index) => expect(y).toBeCloseTo(at([10, 30, 20][index]!) - themes[0]!.named.small!.size! * 0.34, 6))
  // one straight piece: the gap has none on either side
  expect(outline!.path.filter(step => step[0] === 'L')).toHaveLength(3)
})

it('prints the figures and the names of the lines, and leaves labels out evenly where they would touch', () => {
  const items = draw(data([one([1, 2]), { ...one([3, 4], 'lines'), name: 'Two', printed: ['three', 'four'] }]), {
    figures: true,
    title: 'A title',
  })
  expect(texts(items).map(item => item.text)).toEqual(expect.arrayContaining(['A title', 'One', 'Two', 'three', 'four', 'C 1', 'C 2']))
  const many = draw({
    ...data([one(Array.from({ length: 60 }, (_, index) => index))]),
    categories: Array.from({ length: 60 }, (_, index) => `Category${index}`),
  })
  const labels = texts(many)
    .filter(item => item.text.startsWith('Category'))
    .map(item => Number(item.text.slice(8)))
  expect(labels.length).toBeGreaterThan(4)
  expect(new Set(labels.slice(1).map((each, index) => each - labels[index]!)).size).toBe(1)
})

describe('the chart of a statement', () => {
  const report = statement('months')
  const chart = (from = report) => findBlock(from, 'chart') as ChartBlock
  it('is proposed as lines over a trend, and as bars beside a comparison', () => {
    expect(proposeChart('c', statementNamed(report, 'statement')!, 'sales')).toMatchObject({
      form: 'lines',
      columns: ['month'],
      series: [{ line: 'sales' }],
    })
    expect(proposeChart('c', statementNamed(statement('income'), 'statement')!)).toMatchObject({
      form: 'bars',
      series: [{ line: 'totalIncome' }, { line: 'result' }],
    })
  })
  it('follows its lines: renamed ones are drawn on, one that is gone is let go', () => {
    expect(chart(setLine(report, 'statement', 'result', { id: 'profit' })).series.map(each => each.line)).toEqual(['totalIncome', 'profit'])
    expect(chart(removeLine(report, 'statement', 'totalIncome')).series.map(each => each.line)).toEqual(['result'])
    expect(chart(changeChart(report, 'chart', own => ({ ...own, form: 'areas' }))).form).toBe('areas')
  })
})
