import { scaleLinear, scaleLog, stack, stackOffsetDiverging } from 'd3'
import { type FontName, textWidth } from '../fonts'
import type { PageItem } from '../page'
import { look } from '../style'
import { type ChartData, type ChartSeries, extentOf } from './data'

/** Where a chart or a part of it stands, in points of the page. */
export interface ChartBox {
  x: number
  y: number
  width: number
  height: number
}

/** Writes a text; `y` is its baseline. */
export type Write = (
  text: string,
  x: number,
  y: number,
  align: 'left' | 'centre' | 'right',
  style?: { font?: FontName; size?: number; colour?: string },
) => void

export interface Plain {
  font: FontName
  size: number
}

/** How the axis of values runs: from zero unless told, by its own ends, or by powers. */
export interface AxisSetting {
  log?: boolean
  from?: number
  to?: number
}

/** The axes of a chart with its bands, and the place of a value on them. */
export interface Frame {
  /** within which marks stand */
  inner: ChartBox
  lying: boolean
  /** middle of a category along its axis, and the stretch that its bars take */
  middle: (category: number) => number
  band: { at: (category: number) => number; width: number }
  /** place of a value on its axis; the second one is that at the right */
  value: (value: number, second?: boolean) => number
  /** the place that bars begin at */
  base: (second?: boolean) => number
}

const positive = (end: number | undefined) => (end !== undefined && end > 0 ? end : undefined)

/** Where bars that stand on one another begin and end: by series, then category; shares of all are in per cent. */
export function stacked(data: ChartData, own: readonly ChartSeries[]): [number, number][][] {
  if (!own.length) return []
  const whole = (index: number) => own.reduce((sum, each) => sum + Math.abs(each.values[index] ?? 0), 0)
  const value = (index: number, key: number) => {
    const found = own[key]!.values[index] ?? 0
    return data.shares ? (whole(index) ? (found / whole(index)) * 100 : 0) : found
  }
  return stack<number, number>()
    .keys(own.map((_, at) => at))
    .value(value)
    .offset(stackOffsetDiverging)(data.categories.map((_, index) => index))
    .map(each => each.map(point => [point[0], point[1]] as [number, number]))
}

/** From where to where each step goes: the first and the last are whole. */
export function stepsOf(values: readonly (number | null)[]): [number, number][] {
  let at = 0
  return values.map((value, index) => {
    if (index === 0 || index === values.length - 1) {
      at = value ?? 0
      return [0, at]
    }
    const from = at
    at += value ?? 0
    return [from, at]
  })
}

function extent(data: ChartData, second: boolean): [number, number] {
  if (second && data.runningShare) return [0, 100]
  const own = data.series.filter(each => !!each.second === second)
  const bars = own.filter(each => each.form === 'bars' || (each.form === 'areas' && data.stacked))
  const onEach = data.stacked
    ? [
        ...stacked(
          data,
          bars.filter(each => each.form === 'bars'),
        ),
        ...stacked(
          data,
          bars.filter(each => each.form === 'areas'),
        ),
      ]
    : []
  const loose = own.filter(each => !data.stacked || (each.form !== 'bars' && each.form !== 'areas'))
  const { low, high } = extentOf([
    ...onEach.flat(),
    ...(data.steps && !second ? stepsOf(own[0]?.values ?? []) : loose.map(each => each.values)),
    ...(data.target && !second ? [[data.target.value]] : []),
  ])
  return low > high ? [0, 1] : [low, high]
}

/** Names of categories that are broken into lines, and measured one by one. */
const mostNames = 400

/** Where categories stand along their axis: in even bands, or, where nothing but lines, areas and points is drawn, at their days. */
function alongAxis(data: ChartData, [from, to]: [number, number], lying: boolean) {
  const count = data.categories.length
  // very many bands are worked out, not looked up by their names one by one
  const [inner, outer] = [count > mostNames ? 0 : 0.28, 0.16]
  const step = (to - from) / Math.max(1, count - inner + outer * 2)
  const width = step * (1 - inner)
  const start = from + (to - from - step * (count - inner)) / 2
  const at = (category: number) => start + step * category
  const { days } = data
  if (!days || count < 2 || lying || data.series.some(each => each.form === 'bars'))
    return { step, width, at, middle: (category: number) => at(category) + width / 2 }
  const time = scaleLinear()
    .domain([days[0]!, days.at(-1)!])
    .range([from + width / 2, to - width / 2])
  return { step, width, at, middle: (category: number) => time(days[category]!) }
}

/**
 * Lays out the axes within a box and draws them: marks with their figures, names of the categories in as many lines as fit, left out
 * evenly where they would touch.
 */
export function layFrame(
  data: ChartData,
  box: ChartBox,
  items: PageItem[],
  write: Write,
  plain: Plain,
  options: { lying: boolean; axis: AxisSetting; figures: boolean; right: number },
): Frame {
  const { lying, axis } = options
  const two = !lying && (data.runningShare || data.series.some(each => each.second))
  const measure = (text: string) => textWidth(text, plain.font, plain.size)
  const scaleOf = (second: boolean) => {
    const [low, high] = extent(data, second)
    const bars = data.series.some(each => !!each.second === second && (each.form === 'bars' || each.form === 'areas'))
    const log = !second && axis.log && low > 0
    if (log)
      return {
        scale: scaleLog()
          .domain([positive(axis.from) ?? low, positive(axis.to) ?? high])
          .nice()
          .clamp(true),
        log: true,
      }
    const own = { from: second ? undefined : axis.from, to: second ? undefined : axis.to }
    const from = own.from !== undefined && !(bars && own.from > 0) ? own.from : Math.min(0, low)
    const to = own.to ?? Math.max(0, high)
    const scale = scaleLinear()
      .domain(to > from ? [from, to] : [from, from + 1])
      .clamp(true)
    return { scale: own.from === undefined || own.to === undefined ? scale.nice(5) : scale, log: false }
  }
  const [first, second] = [scaleOf(false), two ? scaleOf(true) : undefined]
  const ticksOf = ({ scale, log }: ReturnType<typeof scaleOf>) => {
    const all = scale.ticks(5)
    return log && all.length > 8 ? all.filter(tick => Number.isInteger(Math.log10(tick) + 1e-9) || /^1/.test(tick.toExponential())) : all
  }
  const ticks = ticksOf(first)
  const rightTicks = second ? ticksOf(second) : []
  const tickRight = data.tickRight ?? data.tick
  const names = Math.max(0, ...data.categories.slice(0, mostNames).map(measure))
  const widest = Math.ceil(Math.max(0, ...ticks.map(tick => measure(data.tick(tick)))))
  const left = box.x + (lying ? Math.min(names, box.width * 0.35) : widest) + 6
  const right =
    box.x + box.width - (second ? Math.ceil(Math.max(...rightTicks.map(tick => measure(tickRight(tick))))) + 6 : 0) - options.right
  const lineHeight = plain.size * 1.25
  const along = alongAxis(data, lying ? [box.y, box.y + box.height - lineHeight - 4] : [left, right], lying)
  const { step } = along
  // names of very many are each in one line, and only those that have room are measured
  const many = data.categories.length > mostNames
  const words = lying || many ? [] : data.categories.map(category => broken(category, step - 3, measure))
  const tall = Math.max(1, ...words.map(lines => lines.length))
  const bottom = box.y + box.height - (lying ? lineHeight + 4 : tall * lineHeight + 4)
  const top = Math.min(bottom - 10, box.y + (options.figures && !lying ? 12 : 5))
  const range: [number, number] = lying ? [left, right - (options.figures ? 36 : 4)] : [bottom, top]
  first.scale.range(range)
  second?.scale.range(range)
  const hair = (x: number, y: number, width: number, height: number) =>
    items.push({ kind: 'fill', x, y, width, height, colour: look.hairline })
  for (const tick of ticks) {
    const at = first.scale(tick)
    if (lying) {
      hair(at - 0.2, box.y, 0.4, bottom - box.y)
      write(data.tick(tick), at, bottom + 3 + plain.size, 'centre')
    } else {
      hair(left, at - 0.2, right - left, 0.4)
      write(data.tick(tick), left - 4, at + plain.size * 0.34, 'right')
    }
  }
  for (const tick of rightTicks) write(tickRight(tick), right + 4, second!.scale(tick) + plain.size * 0.34, 'left')
  if (lying) {
    const every = Math.max(1, Math.ceil(lineHeight / step))
    data.categories.forEach((category, index) => {
      if (index % every === 0)
        write(shortened(category, left - box.x - 6, measure), left - 6, along.middle(index) + plain.size * 0.34, 'right')
    })
  } else {
    const widest = many ? measure(data.categories[0]!) + 3 : Math.max(1, ...words.flatMap(lines => lines.map(line => measure(line) + 3)))
    const every = Math.max(1, Math.ceil(widest / step))
    // where days are far apart and near one another, a name stands where the one before it has ended
    let free = -Infinity
    for (let index = 0; index < data.categories.length; index += data.days ? 1 : every) {
      const middle = along.middle(index)
      if (data.days && middle - widest / 2 < free) continue
      free = middle + widest / 2
      const lines = words[index] ?? [data.categories[index]!]
      lines.slice(0, tall).forEach((line, at) => write(line, middle, bottom + 3 + plain.size + at * lineHeight, 'centre'))
    }
  }
  const base = (which?: boolean) => {
    const { scale, log } = which && second ? second : first
    const [low, high] = scale.domain() as [number, number]
    return scale(log ? low : Math.min(high, Math.max(low, 0)))
  }
  return {
    inner: lying
      ? { x: left, y: box.y, width: right - left, height: bottom - box.y }
      : { x: left, y: top, width: right - left, height: bottom - top },
    lying,
    middle: along.middle,
    band: { at: along.at, width: along.width },
    value: (value, which) => (which && second ? second : first).scale(value),
    base,
  }
}

function shortened(text: string, width: number, measure: (text: string) => number): string {
  if (measure(text) <= width) return text
  let kept = text
  while (kept.length > 1 && measure(`${kept}…`) > width) kept = kept.slice(0, -1)
  return `${kept.trimEnd()}…`
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
