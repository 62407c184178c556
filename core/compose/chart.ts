import { area, scaleBand, scaleLinear, stack, stackOffsetDiverging } from 'd3'
import { holdsFigures } from '../statement/columns'
import { scalePowers } from '../statement/rounding'
import type { ChartBlock } from '../definition/blocks/chart'
import type { ThemeDefinition } from '../definition/style'
import type { PreparedBlock } from './prepared'
import { type Decimal, toNumber } from '../value/decimal'
import { numberFormat } from '../value/numberFormat'
import { type FontName, textWidth } from './fonts'
import type { PageItem } from './page'
import { type LaidStatement, patternFor } from './statement/lay'
import type { PreparedStatement } from './statement/prepare'
import { look, resolveStyle } from './style'
import { type PathStep, readPath } from './svgShapes'
import type { CheckedText } from './text'

/** A chart with its texts checked; `statement` is the block whose lines it draws. */
export interface PreparedChart extends PreparedBlock {
  kind: 'chart'
  block: ChartBlock
  x: number
  width: number
  theme: ThemeDefinition
  title?: CheckedText
  statement?: PreparedStatement
}

/** Colours of series where none is chosen: those of levels, in their order. */
export const seriesColours = ['#0f4c5c', '#e07a3f', '#7a4a75', '#5d7a3a', '#5c6b7a', '#b04a5a'] as const

/** What is drawn: one value of each series for each category. `printed` are the figures as the statement prints them. */
export interface ChartData {
  categories: string[]
  series: { name: string; form: 'bars' | 'lines' | 'areas'; colour: string; values: (number | null)[]; printed: string[] }[]
  /** bars stand on one another */
  stacked: boolean
  /** prints a mark of the axis */
  tick: (value: number) => string
}

/** What a chart draws of its statement: lines that stand on it, over its columns of figures. Values are in the statement's scale. */
export function chartData(
  { block }: PreparedChart,
  { block: statement, lines }: PreparedStatement,
  { shaped, columns, titles }: LaidStatement,
  run: { language: string; print: (text: CheckedText) => string },
): ChartData {
  const drawn = columns.flatMap((column, index) =>
    !column.column.hidden && (block.columns?.length ? block.columns.includes(column.column.id) : holdsFigures(column.column))
      ? [{ column, index }]
      : [],
  )
  const power = 10 ** scalePowers[statement.scale]
  const bare = block.form === 'stacked' ? 'bars' : block.form
  const series = block.series.flatMap((own, place): ChartData['series'] => {
    const line = lines.find(each => each.line.id === own.line)
    if (!line) return []
    const row = shaped.rows.find(each => each.line.id === own.line && each.part === 'line')
    const ratio = !!line.line.format
    const value = (at: number): Decimal | null => row?.exact[at] ?? null
    return [
      {
        name: run.print(line.caption) || own.line,
        form: own.form ?? bare,
        colour: own.colour ?? seriesColours[place % seriesColours.length]!,
        // percentages are not in thousands
        values: drawn.map(({ column, index }) =>
          row
            ? value(index) === null
              ? null
              : toNumber(value(index)!) / (ratio || column.column.kind === 'percent' || column.column.kind === 'share' ? 1 : power)
            : 0,
        ),
        printed: drawn.map(({ column, index }) =>
          row?.figures[index] ? numberFormat(patternFor(statement, row, column.column), run.language)(row.figures[index]!) : '',
        ),
      },
    ]
  })
  const ratio = block.series.some(own => lines.find(each => each.line.id === own.line)?.line.format)
  const most = Math.max(1, ...series.flatMap(each => each.values.map(value => Math.abs(value ?? 0))))
  const tick = numberFormat(ratio ? '0.## %;−0.## %' : most < 20 ? '#,##0.##;−#,##0.##' : '#,##0;−#,##0', run.language)
  return {
    categories: drawn.map(({ column }) => titles.get(column.id)!),
    series,
    stacked: block.form === 'stacked',
    tick: value => tick({ units: Math.round(value * 1e4), scale: 4 }),
  }
}

/** Draws a chart into a box of the page, in points. */
export function drawChart(
  data: ChartData,
  box: { x: number; y: number; width: number; height: number },
  options: { theme: ThemeDefinition; title?: string; legend: boolean; figures: boolean },
): PageItem[] {
  const { theme, title } = options
  const items: PageItem[] = []
  const plain = resolveStyle(theme, theme.named.small)
  const write = (
    text: string,
    x: number,
    y: number,
    align: 'left' | 'centre' | 'right',
    font: FontName = plain.font,
    size = plain.size,
    colour: string = plain.colour,
  ) => {
    const width = textWidth(text, font, size)
    if (text)
      items.push({ kind: 'text', x: align === 'left' ? x : align === 'right' ? x - width : x - width / 2, y, text, font, size, colour })
  }
  let top = box.y
  if (title) {
    const style = resolveStyle(theme, theme.named.heading)
    write(title, box.x, top + style.size, 'left', style.font, style.size, style.colour)
    top += style.size + 6
  }
  if (options.legend && data.series.length) top = legend(data, items, box, top, plain, write)
  // the widest mark of the axis and the tallest category say how much room is left
  const bars = data.series.filter(each => each.form === 'bars')
  const { domain, stacks } = extent(data, bars)
  const scale = scaleLinear().domain(domain).nice(5)
  const ticks = scale.ticks(5)
  const left = box.x + Math.ceil(Math.max(...ticks.map(tick => textWidth(data.tick(tick), plain.font, plain.size)))) + 6
  const right = box.x + box.width
  const band = scaleBand<number>()
    .domain(data.categories.map((_, index) => index))
    .range([left, right])
    .paddingInner(0.28)
    .paddingOuter(0.16)
  const words = data.categories.map(category => broken(category, band.step() - 3, text => textWidth(text, plain.font, plain.size)))
  const tall = Math.max(1, ...words.map(lines => lines.length))
  const lineHeight = plain.size * 1.25
  const bottom = box.y + box.height - tall * lineHeight - 4
  scale.range([bottom, Math.min(bottom - 10, top + (options.figures ? 12 : 5))])
  for (const tick of ticks) {
    const y = scale(tick)
    items.push({ kind: 'fill', x: left, y: y - 0.2, width: right - left, height: 0.4, colour: look.hairline })
    write(data.tick(tick), left - 4, y + plain.size * 0.34, 'right')
  }
  // labels that would touch are left out evenly
  const every = Math.max(
    1,
    Math.ceil(Math.max(...words.flatMap(lines => lines.map(line => textWidth(line, plain.font, plain.size) + 3)), 1) / band.step()),
  )
  words.forEach((lines, index) => {
    if (index % every === 0)
      lines.forEach((line, at) => write(line, band(index)! + band.bandwidth() / 2, bottom + 3 + plain.size + at * lineHeight, 'centre'))
  })
  const middle = (index: number) => band(index)! + band.bandwidth() / 2
  const labels: { text: string; x: number; y: number }[] = []
  // areas behind bars behind lines
  for (const own of data.series.filter(each => each.form === 'areas')) {
    const shape = area<number | null>()
      .defined(value => value !== null)
      .x((_, index) => middle(index))
      .y0(scale(0))
      .y1(value => scale(value!))(own.values)
    if (shape) items.push({ kind: 'shapes', x: 0, y: 0, scale: 1, shapes: [{ path: readPath(shape), fill: lighter(own.colour) }] })
  }
  const inner = scaleBand<number>()
    .domain(bars.map((_, index) => index))
    .range([0, band.bandwidth()])
    .paddingInner(bars.length > 1 ? 0.12 : 0)
  bars.forEach((own, place) =>
    own.values.forEach((value, index) => {
      if (value === null) return
      const [from, to] = data.stacked ? stacks[place]![index]! : [0, value]
      const [x, width] = data.stacked ? [band(index)!, band.bandwidth()] : [band(index)! + inner(place)!, inner.bandwidth()]
      const [y, end] = [Math.min(scale(from), scale(to)), Math.max(scale(from), scale(to))]
      if (end - y > 0.01) items.push({ kind: 'fill', x, y, width, height: end - y, colour: own.colour })
      labels.push({
        text: own.printed[index]!,
        x: x + width / 2,
        y: data.stacked ? (y + end) / 2 + plain.size * 0.34 : value < 0 ? end + plain.size + 1 : y - 2,
      })
    }),
  )
  for (const own of data.series.filter(each => each.form !== 'bars')) {
    const points = own.values.map((value, index) => (value === null ? undefined : ([middle(index), scale(value)] as const)))
    items.push({
      kind: 'shapes',
      x: 0,
      y: 0,
      scale: 1,
      shapes: [
        { path: stroke(points, own.form === 'lines' ? 1.6 : 1), fill: own.colour },
        ...(own.form === 'lines'
          ? [{ path: points.flatMap(point => (point ? circle(point[0], point[1], 2) : [])), fill: own.colour }]
          : []),
      ],
    })
    points.forEach((point, index) => point && labels.push({ text: own.printed[index]!, x: point[0], y: point[1] - 4 }))
  }
  items.push({ kind: 'fill', x: left, y: scale(0) - 0.35, width: right - left, height: 0.7, colour: look.soft })
  if (options.figures)
    for (const label of labels)
      write(label.text, label.x, label.y, 'centre', plain.font, plain.size - 0.5, data.stacked ? look.ink : plain.colour)
  return items
}

type Write = (text: string, x: number, y: number, align: 'left') => void
/** Names of the series with their colours, in as many rows as they need; comes back with where the chart goes on. */
function legend(
  data: ChartData,
  items: PageItem[],
  box: { x: number; width: number },
  top: number,
  plain: { font: FontName; size: number },
  write: Write,
): number {
  let [x, y] = [box.x, top]
  for (const { name, colour, form } of data.series) {
    const width = 12 + textWidth(name, plain.font, plain.size)
    if (x > box.x && x + width > box.x + box.width) [x, y] = [box.x, y + plain.size + 4]
    items.push({
      kind: 'fill',
      x,
      y: form === 'lines' ? y + 3.2 : y + 1,
      width: 8,
      height: form === 'lines' ? 1.6 : plain.size - 1,
      colour,
    })
    write(name, x + 11, y + plain.size - 0.5, 'left')
    x += width + 12
  }
  return y + plain.size + 6
}

/** Lowest and highest value that is drawn, zero among them, and where stacked bars begin and end: by series, then category. */
function extent(data: ChartData, bars: ChartData['series']): { domain: [number, number]; stacks: [number, number][][] } {
  const keys = bars.map((_, index) => index)
  const stacks =
    data.stacked && bars.length
      ? stack<number, number>()
          .keys(keys)
          .value((index, key) => bars[key]!.values[index] ?? 0)
          .offset(stackOffsetDiverging)(data.categories.map((_, index) => index))
          .map(each => each.map(point => [point[0], point[1]] as [number, number]))
      : []
  const values = [
    0,
    ...stacks.flat(2),
    ...data.series.filter(each => !data.stacked || each.form !== 'bars').flatMap(each => each.values.flatMap(value => value ?? [])),
  ]
  const [low, high] = [Math.min(...values), Math.max(...values)]
  return { domain: low === high ? [0, 1] : [low, high], stacks }
}

/** A label in lines that fit a width, broken between words, three at most. */
function broken(text: string, width: number, measure: (text: string) => number): string[] {
  const lines: string[] = []
  for (const word of text.split(/\s+/)) {
    const last = lines.at(-1)
    if (last !== undefined && measure(`${last} ${word}`) <= width) lines[lines.length - 1] = `${last} ${word}`
    else lines.push(word)
  }
  return lines.length > 3 ? [...lines.slice(0, 2), `${lines[2]} …`] : lines
}

/** The outline of a line through points, with round joints; all its parts run the same way round. A gap is where there is no point. */
function stroke(points: readonly (readonly [number, number] | undefined)[], width: number): PathStep[] {
  const half = width / 2
  return points.flatMap((to, index): PathStep[] => {
    if (!to) return []
    const from = points[index - 1]
    const joint = circle(to[0], to[1], half)
    if (!from) return joint
    const [dx, dy] = [to[0] - from[0], to[1] - from[1]]
    const length = Math.hypot(dx, dy) || 1
    const [nx, ny] = [(-dy / length) * half, (dx / length) * half]
    return [
      ['M', from[0] - nx, from[1] - ny],
      ['L', to[0] - nx, to[1] - ny],
      ['L', to[0] + nx, to[1] + ny],
      ['L', from[0] + nx, from[1] + ny],
      ['Z'],
      ...joint,
    ]
  })
}

/** How far the handles of a quarter of a circle stand off, for a radius of 1. */
const kappa = 0.5523
function circle(x: number, y: number, r: number): PathStep[] {
  const k = kappa * r
  return [
    ['M', x + r, y],
    ['C', x + r, y + k, x + k, y + r, x, y + r],
    ['C', x - k, y + r, x - r, y + k, x - r, y],
    ['C', x - r, y - k, x - k, y - r, x, y - r],
    ['C', x + k, y - r, x + r, y - k, x + r, y],
    ['Z'],
  ]
}

/** A colour mixed with two thirds of white. */
function lighter(colour: string): string {
  return `#${[1, 3, 5]
    .map(at =>
      Math.round(255 - (255 - parseInt(colour.slice(at, at + 2), 16)) * 0.35)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`
}
