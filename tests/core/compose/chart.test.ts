import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { changeChart, proposeChart } from '../../../core/definition/edits/chart'
import { removeLine, setLine, statementNamed } from '../../../core/definition/edits/statement'
import type { ChartBlock } from '../../../core/definition/blocks/chart'
import { findBlock } from '../../../core/definition/walk'
import { statement } from '../../../demo/reports/statements'
import type { ChartData } from '../../../core/compose/chart/data'
import { drawChart } from '../../../core/compose/chart/draw'
import { stepsOf } from '../../../core/compose/chart/frame'
import { covered, sector } from '../../../core/compose/chart/shapes'
import { textWidth } from '../../../core/compose/fonts'
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
  const items = draw(data([one([10, null, 30, 20], 'lines')]), { legend: false })
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

describe('forms', () => {
  const series = (values: (number | null)[][], form: 'bars' | 'areas' = 'bars'): ChartData['series'] =>
    values.map((own, place) => ({ ...one(own, form, ['#111111', '#222222', '#333333'][place]!), name: `S${place}` }))
  const inBox = (items: PageItem[]) => {
    for (const item of items) {
      const points =
        item.kind === 'fill'
          ? [
              [item.x, item.y],
              [item.x + item.width, item.y + item.height],
            ]
          : item.kind === 'shapes'
            ? item.shapes.flatMap(shape => shape.path.flatMap(step => (step[0] === 'M' || step[0] === 'L' ? [[step[1], step[2]]] : [])))
            : []
      for (const [x, y] of points as [number, number][]) {
        expect(x).toBeGreaterThanOrEqual(box.x - 3)
        expect(x).toBeLessThanOrEqual(box.x + box.width + 3)
        expect(y).toBeGreaterThanOrEqual(box.y - 3)
        expect(y).toBeLessThanOrEqual(box.y + box.height + 3)
      }
    }
  }
  const figure = fc.integer({ min: -5000, max: 5000 })
  const table = fc.array(fc.tuple(figure, figure, figure), { minLength: 1, maxLength: 9 })

  it('of all kinds stay within their box', () => {
    fc.assert(
      fc.property(
        table,
        fc.constantFrom('stacked', 'shares', 'lying', 'areas', 'pie', 'ring', 'steps', 'falling', 'scatter'),
        (rows, kind) => {
          const columns = [0, 1, 2].map(at => rows.map(row => row[at]!))
          const drawn: ChartData = {
            ...data(series(columns, kind === 'areas' ? 'areas' : 'bars'), kind === 'stacked' || kind === 'shares' || kind === 'areas'),
            ...(kind === 'shares' ? { shares: true } : {}),
            ...(kind === 'pie' || kind === 'ring' ? { round: kind } : {}),
            ...(kind === 'steps' ? { steps: true } : {}),
            ...(kind === 'falling' ? { runningShare: true } : {}),
            ...(kind === 'scatter' ? { scatter: true } : {}),
          }
          // a running share of figures that add up to less than some of them leaves its axis: only what is above zero is drawn so
          const positive = {
            ...drawn,
            series: drawn.series.map(each => ({ ...each, values: each.values.map(value => Math.abs(value!) + 1) })),
          }
          inBox(draw(kind === 'falling' ? positive : drawn, kind === 'lying' ? { lying: true } : {}))
        },
      ),
    )
  })
  it('as shares of a hundred: each category comes to the whole', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(5000), fc.nat(5000), fc.nat(5000)), { minLength: 1, maxLength: 6 }), rows => {
        const filled = rows.map(([a, b, c]) => [a + 1, b, c] as const)
        const columns = [0, 1, 2].map(at => filled.map(row => row[at]!))
        const marks: { series: number; category: number; height: number }[] = []
        draw({ ...data(series(columns), true), shares: true }, { onMark: (mark: never) => marks.push(mark) })
        const heights = filled.map((_, category) =>
          marks
            .filter(mark => mark.category === category)
            .reduce((sum, mark) => sum + (columns[mark.series]![category] ? mark.height : 0), 0),
        )
        // a mark is two points high at least, so that it can be met by a pointer
        for (const height of heights) expect(Math.abs(height - heights[0]!)).toBeLessThan(4.5)
      }),
    )
  })
  it('as steps: each begins where the one before it ended, the last stands by itself', () => {
    fc.assert(
      fc.property(fc.array(figure, { minLength: 2, maxLength: 8 }), moves => {
        const values = [...moves, moves.reduce((sum, each) => sum + each, 0)]
        let at = 0
        const wanted = values.map((value, index) => {
          const from = index === 0 || index === values.length - 1 ? 0 : at
          at = index === values.length - 1 ? value : index === 0 ? value : at + value
          return [from, at]
        })
        expect(stepsOf(values)).toEqual(wanted)
      }),
    )
  })
  it('round: parts fill the circle in proportion', () => {
    const centre = { x: 0, y: 0 }
    fc.assert(
      fc.property(fc.double({ min: 0.01, max: 6.28, noNaN: true }), angle => {
        const path = sector(centre.x, centre.y, 0, 10, 0, angle)
        const last = path.filter(step => step[0] === 'C').at(-1)!
        expect(last[5]).toBeCloseTo(Math.sin(angle) * 10, 6)
        expect(last[6]).toBeCloseTo(-Math.cos(angle) * 10, 6)
      }),
    )
  })
  it('an axis by powers of ten places tenfold figures at even distances', () => {
    const marks: { x: number; y: number }[] = []
    draw(data([one([10, 100, 1000, 10_000], 'lines')]), { axis: { log: true }, onMark: (mark: never) => marks.push(mark) })
    const steps = marks.slice(1).map((mark, at) => marks[at]!.y - mark.y)
    for (const step of steps) expect(step).toBeCloseTo(steps[0]!, 6)
  })
  it('a long line covers all of its points, in no more stretches than a picture can show', () => {
    fc.assert(
      fc.property(fc.array(fc.option(fc.integer({ min: 0, max: 1000 }), { freq: 200 }), { minLength: 1500, maxLength: 4000 }), values => {
        const points = values.map((value, at) => (value === null ? undefined : ([at * 0.1, value] as const)))
        const parts = covered(points)
        const stretches = parts.flat()
        expect(stretches.length).toBeLessThanOrEqual(
          Math.ceil((values.length * 0.1) / 0.75) + 1 + values.filter(value => value === null).length,
        )
        for (const point of points) {
          if (!point) continue
          const over = stretches.filter(({ x }) => x <= point[0] + 1e-9 && point[0] < x + 0.75 + 1e-9)
          expect(over.some(({ low, high }) => low <= point[1] && point[1] <= high)).toBe(true)
        }
      }),
      { numRuns: 20 },
    )
  })
  it('figures at marks never lie on one another', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(50), { minLength: 2, maxLength: 40 }), values => {
        const shown = texts(
          draw(data([{ ...one(values, 'lines'), printed: values.map(value => `${value},000`) }]), { figures: true }),
        ).filter(item => item.text.endsWith(',000'))
        const wide = (item: (typeof shown)[number]) => textWidth(item.text, item.font, item.size)
        shown.forEach((a, at) =>
          shown.slice(at + 1).forEach(b => {
            const apart = a.x + wide(a) <= b.x || b.x + wide(b) <= a.x || Math.abs(a.y - b.y) >= a.size
            expect(apart).toBe(true)
          }),
        )
      }),
    )
  })
})
