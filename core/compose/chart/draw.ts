import { scaleBand } from 'd3'
import { textWidth } from '../fonts'
import type { PageItem } from '../page'
import { look, resolveStyle } from '../style'
import type { PathStep, Shape } from '../svgShapes'
import { type ChartData, type ChartSeries, percentOf } from './data'
import { type ChartBox, type Frame, layFrame, type Plain, stacked, stepsOf, type Write } from './frame'
import type { DrawOptions } from './options'
import { drawRound } from './round'
import { dashes, hatching, lighter, longLine, mark, mostPoints, polygon, stroke } from './shapes'

/** Marks beyond which no figures and no shapes of points are drawn: nobody could read them. */
const mostMarks = 400

/** Marks beyond which not every one is a place of its own on the page: every nth is. */
const mostPlaces = 1500
const toldOf = ({ series, categories }: ChartData) => {
  const every = Math.ceil((series.length * categories.length) / mostPlaces)
  return (index: number) => index % every === 0
}

/** Draws a chart into a box of the page, in points. Told apart in grey print: by lightness, hatching, dashes and shapes of points. */
export function drawChart(data: ChartData, box: ChartBox, options: DrawOptions): PageItem[] {
  const { theme, title } = options
  const items: PageItem[] = []
  const plain = resolveStyle(theme, theme.named.small)
  const write: Write = (text, x, y, align, style = {}) => {
    const { font = plain.font, size = plain.size, colour = plain.colour } = style
    const width = textWidth(text, font, size)
    if (text)
      items.push({ kind: 'text', x: align === 'left' ? x : align === 'right' ? x - width : x - width / 2, y, text, font, size, colour })
  }
  let top = box.y
  if (title) {
    const style = resolveStyle(theme, theme.named.heading)
    write(title, box.x, top + style.size, 'left', style)
    top += style.size + 6
  }
  const within = { ...box, y: top, height: box.y + box.height - top }
  if (data.round) {
    drawRound(data, within, items, write, plain, options)
    return items
  }
  const ends = options.atEnds && !data.stacked && data.series.every(each => each.form === 'lines')
  const named = options.legend && !ends && data.series.length > 0 && !data.scatter
  if (named) top = legend(data, items, box, top, plain, write)
  const labels = new Labels(plain, write)
  const frame = data.scatter
    ? undefined
    : layFrame(data, { ...box, y: top, height: box.y + box.height - top }, items, write, plain, {
        lying: !!options.lying && data.series.every(each => each.form === 'bars'),
        axis: options.axis ?? {},
        figures: options.figures,
        right: ends
          ? Math.min(box.width * 0.25, Math.max(0, ...data.series.map(each => textWidth(each.name, plain.font, plain.size))) + 8)
          : 0,
      })
  if (!frame) {
    scatter(data, { ...box, y: top, height: box.y + box.height - top }, items, write, plain, options)
    return items
  }
  areas(data, frame, items)
  bars(data, frame, items, labels, options)
  lines(data, frame, items, labels, options, plain)
  const base = frame.base()
  const { inner } = frame
  items.push(
    frame.lying
      ? { kind: 'fill', x: base - 0.35, y: inner.y, width: 0.7, height: inner.height, colour: look.soft }
      : { kind: 'fill', x: inner.x, y: base - 0.35, width: inner.width, height: 0.7, colour: look.soft },
  )
  if (data.target) target(data.target, frame, items, write, plain)
  if (ends) nameEnds(data, frame, write, plain)
  if (options.figures) labels.write(data.stacked && !data.steps ? look.ink : undefined)
  return items
}

/** Figures at marks; one that would touch another is left out. */
class Labels {
  private readonly found: { text: string; x: number; y: number; spots: readonly [number, number][] }[] = []
  constructor(
    private readonly plain: Plain,
    private readonly put: Write,
  ) {}

  /** A figure with the places that it may stand at, the best first: middle and baseline. */
  add(text: string, ...spots: [number, number][]): void {
    if (text && spots[0]) this.found.push({ text, x: spots[0][0], y: spots[0][1], spots })
  }

  write(colour?: string): void {
    const size = this.plain.size - 0.5
    const taken: ChartBox[] = []
    for (const { text, spots } of this.found.slice(0, mostMarks)) {
      const width = textWidth(text, this.plain.font, size)
      const boxes = spots.map(([x, y]) => ({ x: x - width / 2 - 1, y: y - size, width: width + 2, height: size + 1, at: [x, y] as const }))
      const free = boxes.find(own =>
        taken.every(
          other =>
            own.x + own.width <= other.x ||
            other.x + other.width <= own.x ||
            own.y + own.height <= other.y ||
            other.y + other.height <= own.y,
        ),
      )
      if (!free) continue
      taken.push(free)
      this.put(text, free.at[0], free.at[1], 'centre', { size, ...(colour ? { colour } : {}) })
    }
  }
}

function areas(data: ChartData, frame: Frame, items: PageItem[]): void {
  const own = data.series.filter(each => each.form === 'areas')
  const stacks = data.stacked ? stacked(data, own) : []
  own.forEach((each, place) => {
    const upper: [number, number][] = []
    const lower: [number, number][] = []
    const flush = () => {
      if (upper.length)
        items.push({
          kind: 'shapes',
          x: 0,
          y: 0,
          scale: 1,
          shapes: [{ path: polygon([...upper, ...lower.reverse()]), fill: lighter(each.colour, data.stacked ? 0.55 : 0.35) }],
        })
      upper.length = lower.length = 0
    }
    each.values.forEach((value, index) => {
      if (value === null && !data.stacked) return flush()
      const [from, to] = data.stacked ? stacks[place]![index]! : [undefined, value!]
      upper.push([frame.middle(index), frame.value(to, each.second)])
      lower.push([frame.middle(index), from === undefined ? frame.base(each.second) : frame.value(from, each.second)])
    })
    flush()
  })
}

function bars(data: ChartData, frame: Frame, items: PageItem[], labels: Labels, options: DrawOptions): void {
  const told = toldOf(data)
  const own = data.series.map((series, at) => ({ series, at })).filter(({ series }) => series.form === 'bars')
  const stacks = data.stacked
    ? stacked(
        data,
        own.map(({ series }) => series),
      )
    : []
  const steps = data.steps ? stepsOf(own[0]?.series.values ?? []) : []
  const inner = scaleBand<number>()
    .domain(own.map((_, index) => index))
    .range([0, frame.band.width])
    .paddingInner(own.length > 1 ? 0.12 : 0)
  const size = options.theme.named.small?.size ?? 7.5
  own.forEach(({ series, at }, place) => {
    const hatched: PathStep[] = []
    series.values.forEach((value, index) => {
      if (value === null) return
      const stretch = data.steps ? steps[index]! : data.stacked ? stacks[place]![index]! : undefined
      const [from, to] = stretch
        ? [frame.value(stretch[0]), frame.value(stretch[1])]
        : [frame.base(series.second), frame.value(value, series.second)]
      const beside = !data.stacked && !data.steps
      const start = frame.band.at(index) + (beside ? inner(place)! : 0)
      const across = beside ? inner.bandwidth() : frame.band.width
      const [low, high] = [Math.min(from, to), Math.max(from, to)]
      const rect = frame.lying
        ? { x: low, y: start, width: high - low, height: across }
        : { x: start, y: low, width: across, height: high - low }
      const whole = data.steps && (index === 0 || index === series.values.length - 1)
      const colour = data.steps && !whole ? stepColour(value, series.colour) : series.colour
      if (high - low > 0.01) items.push({ kind: 'fill', ...rect, colour })
      if (own.length > 1 && series.values.length <= mostMarks) hatched.push(...hatching(place, rect.x, rect.y, rect.width, rect.height))
      if (data.steps && !whole && value < 0) hatched.push(...hatching(1, rect.x, rect.y, rect.width, rect.height))
      if (data.steps && index < series.values.length - 1 && !frame.lying)
        items.push({
          kind: 'fill',
          x: start + across,
          y: frame.value(stretch![1]) - 0.2,
          width: frame.band.at(index + 1) - start - across,
          height: 0.4,
          colour: look.soft,
        })
      if (told(index))
        options.onMark?.({ ...rect, width: Math.max(2, rect.width), height: Math.max(2, rect.height), series: at, category: index })
      const middle = start + across / 2
      if (frame.lying)
        labels.add(series.printed[index]!, [high + 4 + textWidth(series.printed[index]!, 'sans', size) / 2, middle + size * 0.34])
      else if (data.stacked) labels.add(series.printed[index]!, [middle, (low + high) / 2 + size * 0.34])
      else labels.add(series.printed[index]!, [middle, (data.steps ? to > from : value < 0) ? high + size + 1 : low - 2])
    })
    // hatching is lighter than its bar, so that it is seen on any of them
    if (hatched.length)
      items.push({ kind: 'shapes', x: 0, y: 0, scale: 1, shapes: [{ path: hatched, fill: lighter(series.colour, 0.25) }] })
  })
}

/** Steps up and down: told apart by lightness and by hatching, so that nobody needs red and green. */
const stepColour = (value: number, colour: string) => (value < 0 ? lighter(colour, 0.75) : lighter(colour, 0.5))

function lines(data: ChartData, frame: Frame, items: PageItem[], labels: Labels, options: DrawOptions, plain: Plain): void {
  const told = toldOf(data)
  const all = data.runningShare ? [...data.series, runningShare(data)] : data.series
  let place = -1
  all.forEach((series, at) => {
    if (series.form !== 'lines' && series.form !== 'areas' && series.form !== 'points') return
    place++
    if (series.form === 'areas' && data.stacked) return
    const points = series.values.map((value, index) =>
      value === null ? undefined : ([frame.middle(index), frame.value(value, series.second)] as const),
    )
    const shapes: Shape[] = []
    const width = series.form === 'lines' ? 1.6 : 1
    if (series.form !== 'points') {
      const broken = place % 3 === 1 && series.form === 'lines' && points.length <= mostMarks
      const path = points.length > mostPoints ? longLine(points, width) : broken ? dashes(points, width) : stroke(points, width)
      shapes.push({ path, fill: series.colour })
    }
    if (series.form === 'points' || (series.form === 'lines' && points.length <= mostMarks)) {
      const r = points.length > mostMarks ? 1 : 2
      shapes.push({ path: points.flatMap(point => (point ? mark(place, point[0], point[1], r) : [])), fill: series.colour })
    }
    items.push({ kind: 'shapes', x: 0, y: 0, scale: 1, shapes })
    points.forEach((point, index) => {
      if (!point) return
      if (at < data.series.length && told(index))
        options.onMark?.({ x: point[0] - 3, y: point[1] - 3, width: 6, height: 6, series: at, category: index })
      if (options.figures) labels.add(series.printed[index]!, [point[0], point[1] - 4], [point[0], point[1] + plain.size + 3])
    })
  })
}

/** What the bars come to so far, in per cent of all of them. */
function runningShare(data: ChartData): ChartSeries {
  const values = data.series[0]?.values ?? []
  const whole = values.reduce<number>((sum, value) => sum + (value ?? 0), 0)
  let sum = 0
  const shares = values.map(value => percentOf((sum += value ?? 0), whole))
  return { name: '', form: 'lines', colour: look.ink, values: shares, printed: shares.map(() => ''), second: true }
}

function target({ value, label }: NonNullable<ChartData['target']>, frame: Frame, items: PageItem[], write: Write, plain: Plain): void {
  const at = frame.value(value)
  const { inner } = frame
  const path = frame.lying
    ? dashes(
        [
          [at, inner.y],
          [at, inner.y + inner.height],
        ],
        1.1,
        5,
      )
    : dashes(
        [
          [inner.x, at],
          [inner.x + inner.width, at],
        ],
        1.1,
        5,
      )
  items.push({ kind: 'shapes', x: 0, y: 0, scale: 1, shapes: [{ path, fill: look.ink }] })
  if (frame.lying) write(label, at, inner.y - 1, 'centre')
  else write(label, inner.x + inner.width, at - 2.5 < inner.y + plain.size ? at + plain.size + 1 : at - 2.5, 'right', { colour: look.ink })
}

/** Names of lines at their last points, moved apart where they would touch. */
function nameEnds(data: ChartData, frame: Frame, write: Write, plain: Plain): void {
  const ends = data.series
    .flatMap((each, at) => {
      const last = each.values.findLastIndex(value => value !== null)
      return last < 0 ? [] : [{ at, each, x: frame.middle(last), y: frame.value(each.values[last]!, each.second) }]
    })
    .sort((a, b) => a.y - b.y)
  let before = -Infinity
  for (const { each, y } of ends) {
    const own = Math.max(y, before + plain.size + 1.5)
    before = own
    write(each.name, frame.inner.x + frame.inner.width + 5, own + plain.size * 0.34, 'left', { colour: each.colour })
  }
}

function scatter(data: ChartData, box: ChartBox, items: PageItem[], write: Write, plain: Plain, options: DrawOptions): void {
  const [across, up] = data.series
  if (!across || !up) return
  const points: ChartData = { ...data, categories: [], series: [{ ...up, form: 'points' }] }
  const frame = layFrame(points, { ...box, height: box.height - plain.size - 3 }, items, write, plain, {
    lying: false,
    axis: options.axis ?? {},
    figures: false,
    right: 6,
  })
  const known = across.values.flatMap(value => value ?? [])
  const [low, high] = [
    Math.min(
      0,
      ...known.slice(0, 1),
      known.reduce((a, b) => Math.min(a, b), 0),
    ),
    known.reduce((a, b) => Math.max(a, b), 0) || 1,
  ]
  const { inner } = frame
  const x = (value: number) => inner.x + ((value - low) / (high - low || 1)) * inner.width
  for (const tick of [low, low + (high - low) / 2, high]) write(data.tick(tick), x(tick), inner.y + inner.height + plain.size + 3, 'centre')
  write(`${across.name} →`, inner.x + inner.width, box.y + box.height, 'right')
  write(`${up.name} ↑`, box.x, box.y + plain.size * 0.2, 'left')
  const r = known.length > mostMarks ? 1 : 2.2
  const path: PathStep[] = []
  const told = toldOf(data)
  across.values.forEach((value, index) => {
    const own = up.values[index]
    if (value === null || own === null || own === undefined) return
    const [px, py] = [x(value), frame.value(own)]
    path.push(...(r > 1 ? mark(0, px, py, r) : mark(1, px, py, r)))
    if (told(index)) options.onMark?.({ x: px - 3, y: py - 3, width: 6, height: 6, series: 1, category: index })
  })
  items.push({ kind: 'shapes', x: 0, y: 0, scale: 1, shapes: [{ path, fill: up.colour }] })
}

/** Names of the series with their colours and hatching, in as many rows as they need; comes back with where the chart goes on. */
function legend(data: ChartData, items: PageItem[], box: { x: number; width: number }, top: number, plain: Plain, write: Write): number {
  let [x, y] = [box.x, top]
  const bars = data.series.filter(each => each.form === 'bars')
  const rest = data.series.filter(each => each.form !== 'bars')
  for (const each of data.series) {
    const { name, colour, form } = each
    const width = 12 + textWidth(name, plain.font, plain.size)
    if (x > box.x && x + width > box.x + box.width) [x, y] = [box.x, y + plain.size + 4]
    const height = plain.size - 1
    if (form === 'lines' || form === 'points') {
      const place = rest.indexOf(each)
      if (form === 'lines') items.push({ kind: 'fill', x, y: y + 3.2, width: 8, height: 1.6, colour })
      items.push({ kind: 'shapes', x: 0, y: 0, scale: 1, shapes: [{ path: mark(place, x + 4, y + 4, 2), fill: colour }] })
    } else {
      items.push({
        kind: 'fill',
        x,
        y: y + 1,
        width: 8,
        height,
        colour: form === 'areas' ? lighter(colour, data.stacked ? 0.55 : 0.35) : colour,
      })
      const hatch = form === 'bars' && bars.length > 1 ? hatching(bars.indexOf(each), x, y + 1, 8, height) : []
      if (hatch.length) items.push({ kind: 'shapes', x: 0, y: 0, scale: 1, shapes: [{ path: hatch, fill: lighter(colour, 0.25) }] })
    }
    write(name, x + 11, y + plain.size - 0.5, 'left')
    x += width + 12
  }
  return y + plain.size + 6
}
