import { holdsFigures } from '../../statement/columns'
import { scalePowers } from '../../statement/rounding'
import type { Standing } from '../../formula/standing'
import { type Decimal, toNumber } from '../../value/decimal'
import { numberFormat } from '../../value/numberFormat'
import type { Value } from '../../value/value'
import { cellStanding } from '../crosstab/figures'
import { crossedUnder } from '../crosstab/crossed'
import { axisPlaces } from '../crosstab/places'
import type { PreparedCrosstab } from '../crosstab/prepare'
import type { Flow } from '../place'
import type { PreparedTable } from '../prepared'
import { laidStatement, patternFor } from '../statement/lay'
import type { PreparedStatement } from '../statement/prepare'
import { pieces } from '../table/pieces'
import { onlyValue, patternOf } from '../text'
import { pageWordsOf } from '../words'
import { type ChartData, type ChartSeries, mostParts, percentOf, seriesColour } from './data'
import type { PreparedChart } from './prepare'

/** What a source of figures gives, before the form of the chart is thought of. */
interface Found {
  categories: string[]
  series: ChartSeries[]
  /** pattern of the marks of the axis, where the figures tell one */
  pattern?: string | undefined
}

const isDecimal = (value: Value): value is Decimal => typeof value === 'object' && value !== null
const numberOf = (value: Value): number | null => (isDecimal(value) ? toNumber(value) : null)
const bare = (form: PreparedChart['block']['form']): ChartSeries['form'] =>
  form === 'lines' || form === 'areas' || form === 'points' ? form : 'bars'

/** What a chart draws at a place of its layout; nothing where what it draws is gone. */
export function chartData(chart: PreparedChart, flow: Flow, at: Standing): ChartData | undefined {
  const { block, statement, crosstab, table, own } = chart
  const found = statement
    ? ofStatement(chart, statement, flow, at)
    : table
      ? ofTable(chart, table, flow, at)
      : (crosstab ?? own)
        ? ofCrosstab(chart, (crosstab ?? own)!, flow, at)
        : undefined
  if (!found) return undefined
  const { language } = flow.values
  const shown = formed(chart, statement && wantsParts(block.form) ? turned(found) : found, flow)
  const most = Math.max(
    1,
    ...shown.series.slice(0, 20).map(each => each.values.reduce<number>((all, value) => Math.max(all, Math.abs(value ?? 0)), 0)),
  )
  const percent = found.pattern?.includes('%') ?? false
  const tick = numberFormat(percent ? '0.## %;−0.## %' : most < 20 ? '#,##0.##;−#,##0.##' : '#,##0;−#,##0', language)
  const share = numberFormat('0.#', language)
  const shares = (value: number) => `${share({ units: Math.round(value * 10), scale: 1 })} %`
  const plain = (value: number) => tick({ units: Math.round(value * 1e4), scale: 4 })
  const goal = chart.target && numberOf(flow.values.evaluate(chart.target.typed)(wholeOf(chart, flow, at)))
  const caption = chart.target?.caption && flow.values.print(chart.target.caption)(at)
  return {
    ...shown,
    stacked: block.form === 'stacked' || block.form === 'shares',
    ...(block.form === 'shares' ? { shares: true } : {}),
    ...(block.form === 'pie' || block.form === 'ring' ? { round: block.form } : {}),
    ...(block.form === 'steps' ? { steps: true } : {}),
    ...(block.form === 'falling' ? { runningShare: true } : {}),
    ...(block.form === 'points' && !statement && found.series.length === 2 ? { scatter: true } : {}),
    tick: block.form === 'shares' ? shares : plain,
    tickRight: block.form === 'falling' || block.form === 'pie' || block.form === 'ring' ? shares : plain,
    ...(goal === null || goal === undefined ? {} : { target: { value: goal, label: caption ? `${caption} ${plain(goal)}` : plain(goal) } }),
  }
}

/** All records that a chart is of: for a target that is a total. */
function wholeOf(chart: PreparedChart, flow: Flow, at: Standing): Standing {
  const shape = chart.own ?? chart.crosstab
  if (!shape) return at
  const { crossed } = crossedUnder(shape, flow, at)
  return cellStanding(shape, crossed, crossed.rows, crossed.columns) ?? at
}

/** The figures as the form wants them: in falling order, as parts of a whole, as steps. */
function formed(
  chart: PreparedChart,
  { categories, series, pattern = '#,##0.##;−#,##0.##' }: Found,
  flow: Flow,
): Pick<ChartData, 'categories' | 'series'> {
  const words = pageWordsOf(flow.values.language)
  const { form, id } = chart.block
  const [first, second] = series
  if (!first) return { categories, series: [] }
  const order = (by: readonly number[]) => ({
    categories: by.map(at => categories[at]!),
    series: [
      {
        ...first,
        values: by.map(at => first.values[at]!),
        printed: by.map(at => first.printed[at]!),
        ...(first.at ? { at: (place: number) => first.at!(by[place]!) } : {}),
      },
    ],
  })
  const falling = () => categories.map((_, at) => at).sort((a, b) => (first.values[b] ?? 0) - (first.values[a] ?? 0))
  if (form === 'falling') return order(falling())
  if (form === 'pie' || form === 'ring') {
    if (first.values.some(value => (value ?? 0) < 0))
      flow.remarks.count(`round ${id}`, {
        kind: 'chart',
        block: id,
        part: 'block',
        sentence: 'Parts of a whole cannot be below zero: such figures are left out of the pie; bars show them.',
        remedies: [],
      })
    const shown = falling().filter(at => (first.values[at] ?? 0) > 0)
    if (shown.length <= mostParts) return order(shown)
    const kept = order(shown.slice(0, mostParts - 1))
    const rest = shown.slice(mostParts - 1).reduce((sum, at) => sum + (first.values[at] ?? 0), 0)
    const print = numberFormat(pattern, flow.values.language)
    return {
      categories: [...kept.categories, words.others],
      series: [
        {
          ...kept.series[0]!,
          values: [...kept.series[0]!.values, rest],
          printed: [...kept.series[0]!.printed, print({ units: Math.round(rest * 100), scale: 2 })],
          ...(kept.series[0]!.at ? { at: (place: number) => (place < mostParts - 1 ? kept.series[0]!.at!(place) : undefined) } : {}),
        },
      ],
    }
  }
  if (form === 'steps') {
    const format = numberFormat(pattern, flow.values.language)
    const print = (value: number) => format({ units: Math.round(value * 1e4), scale: 4 })
    const moves = categories.map((_, at) => (second ? (second.values[at] ?? 0) - (first.values[at] ?? 0) : (first.values[at] ?? 0)))
    const opening = second ? first.values.reduce<number>((sum, value) => sum + (value ?? 0), 0) : 0
    const closing = moves.reduce((sum, value) => sum + value, opening)
    const values = [opening, ...moves, closing]
    const ends = second ? [first.name, second.name] : [words.opening, words.closing]
    return {
      categories: [ends[0]!, ...categories, ends[1]!],
      series: [
        {
          ...first,
          form: 'bars',
          values,
          printed: values.map(print),
          ...(first.at
            ? { at: (place: number) => (place > 0 && place <= moves.length ? (second?.at ?? first.at)!(place - 1) : undefined) }
            : {}),
        },
      ],
    }
  }
  return { categories, series }
}

/** Forms whose parts are the lines of a statement, not its columns. */
const wantsParts = (form: PreparedChart['block']['form']) => form === 'steps' || form === 'falling' || form === 'pie' || form === 'ring'

/** Lines as categories and columns as series: what leads from one column to another. */
function turned({ categories, series, ...rest }: Found): Found {
  return {
    ...rest,
    categories: series.map(each => each.name),
    series: categories.map((name, at) => ({
      name,
      form: 'bars',
      colour: seriesColour(at),
      values: series.map(each => each.values[at] ?? null),
      printed: series.map(each => each.printed[at] ?? ''),
    })),
  }
}

/** Lines that stand on a statement, over its columns of figures. Values are in the statement's scale. */
function ofStatement({ block }: PreparedChart, prepared: PreparedStatement, flow: Flow, at: Standing): Found {
  const { block: statement, lines } = prepared
  const { shaped, columns, titles } = laidStatement(prepared, flow, at)
  const { language } = flow.values
  const drawn = columns.flatMap((column, index) =>
    !column.column.hidden && (block.columns?.length ? block.columns.includes(column.column.id) : holdsFigures(column.column))
      ? [{ column, index }]
      : [],
  )
  const power = 10 ** scalePowers[statement.scale]
  const series = block.series.flatMap((own, place): ChartSeries[] => {
    const line = lines.find(each => each.line.id === own.line)
    if (!line) return []
    const row = shaped.rows.find(each => each.line.id === own.line && each.part === 'line')
    const ratio = !!line.line.format
    const value = (of: number): Decimal | null => row?.exact[of] ?? null
    return [
      {
        name: flow.values.print(line.caption)(at) || own.line,
        form: own.form ?? bare(block.form),
        colour: own.colour ?? seriesColour(place),
        // percentages are not in thousands
        values: drawn.map(({ column, index }) =>
          row
            ? value(index) === null
              ? null
              : toNumber(value(index)!) / (ratio || column.column.kind === 'percent' || column.column.kind === 'share' ? 1 : power)
            : 0,
        ),
        printed: drawn.map(({ column, index }) =>
          row?.figures[index] ? numberFormat(patternFor(statement, row, column.column), language)(row.figures[index]!) : '',
        ),
      },
    ]
  })
  const ratio = block.series.some(own => lines.find(each => each.line.id === own.line)?.line.format)
  return { categories: drawn.map(({ column }) => titles.get(column.id)!), series, ...(ratio ? { pattern: '0 %' } : {}) }
}

/** Groups of the rows over what stands across: the columns' groups, or the measures where there are none. */
function ofCrosstab({ block }: PreparedChart, shape: PreparedCrosstab, flow: Flow, at: Standing): Found {
  const { crossed, figures } = crossedUnder(shape, flow, at)
  const none = (count: number) => Array.from({ length: count }, () => ({ total: 'none' as const }))
  const rows = axisPlaces(crossed.rows, none(shape.rows.length))
  const columns = axisPlaces(crossed.columns, none(shape.columns.length))
  const name = (node: (typeof rows)[number]['node']): string =>
    node.depth > 0 && node.parent ? `${name(node.parent)} · ${node.label}` : node.label
  const measures = shape.measures.filter(each => !block.columns?.length || block.columns.includes(each.measure.id))
  const say = (measure: (typeof measures)[number]) => flow.values.print(measure.caption)({ level: shape.level, from: 0, to: 0 })
  const split = shape.columns.length > 0
  const series = columns.flatMap((column, place) =>
    measures.map((measure, index): ChartSeries => {
      const said = block.measures?.find(each => each.id === measure.measure.id)
      const cells = rows.map(row => figures.figure(measure, row.node, column.node))
      const order = split ? place * measures.length + index : index
      return {
        name: split ? (measures.length > 1 ? `${name(column.node)}, ${say(measure)}` : name(column.node)) : say(measure),
        form: said?.form ?? bare(block.form),
        colour: (split ? undefined : said?.colour) ?? seriesColour(order),
        values: cells.map(cell => numberOf(cell.value)),
        printed: cells.map(cell => cell.text),
        ...(said?.second ? { second: true } : {}),
        at: place => cellStanding(shape, crossed, rows[place]!.node, column.node),
        cell: measure.measure.id,
      }
    }),
  )
  const whole = pageWordsOf(flow.values.language).total
  return { categories: rows.map(({ node }) => (node.depth < 0 ? whole : name(node))), series, pattern: measures[0]?.pattern }
}

/** What stands at the ends of a table's outermost groups, or in its lines where it has none; columns of numbers are the series. */
function ofTable({ block }: PreparedChart, table: PreparedTable, flow: Flow, at: Standing): Found {
  const { values } = flow
  const grouped = table.groups.length > 0
  const categories: string[] = []
  const series = new Map<string, ChartSeries>()
  const standings: Standing[] = []
  let pattern: string | undefined
  const titles = table.rows.find(row => row.row.kind === 'titles')
  for (const { row, at: standing, frame, table: own } of pieces(flow, table, at, undefined, undefined)) {
    if (own !== table || (grouped ? row.row.kind !== 'groupEnd' || row.depth !== 0 : row.row.kind !== 'line')) continue
    const place = categories.length
    let label = grouped ? (frame.node?.label ?? '') : ''
    for (const cell of row.cells) {
      const only = onlyValue(cell.text.lines)
      const printed = values.print(cell.text)(standing)
      if (only?.typed.type !== 'number') {
        if (!label && !grouped) label = printed
        continue
      }
      if (block.columns?.length && !block.columns.includes(cell.id)) continue
      pattern ??= patternOf(only.typed, only.pattern)
      let found = series.get(cell.id)
      if (!found) {
        const title = titles?.cells.find(each => each.id === cell.id)
        const order = series.size
        found = {
          name: title ? values.print(title.text)(at) : cell.id,
          form: bare(block.form),
          colour: seriesColour(order),
          values: [],
          printed: [],
          at: category => standings[category],
          cell: cell.id,
        }
        series.set(cell.id, found)
      }
      found.values[place] = numberOf(values.evaluate(only.typed)(standing))
      found.printed[place] = printed
    }
    categories.push(label)
    standings.push(standing)
  }
  const all = [...series.values()].map(each => ({
    ...each,
    values: categories.map((_, place) => each.values[place] ?? null),
    printed: categories.map((_, place) => each.printed[place] ?? ''),
  }))
  return { categories, series: all, pattern }
}

/** A text that says what a chart shows, for those who do not see it. */
export function alternativeOf(data: ChartData, title: string | undefined, form: string): string {
  const { categories, series, steps, round, runningShare, scatter } = data
  const [first] = series
  if (!first || !categories.length) return title ? `${title}: nothing to draw.` : 'A chart without figures.'
  const known = first.values
    .map((value, at) => ({ value, at }))
    .filter((each): each is { value: number; at: number } => each.value !== null)
  const high = known.reduce((best, each) => (each.value > best.value ? each : best), known[0] ?? { value: 0, at: 0 })
  const low = known.reduce((best, each) => (each.value < best.value ? each : best), known[0] ?? { value: 0, at: 0 })
  const names = series
    .slice(0, 6)
    .map(each => each.name)
    .filter(Boolean)
    .join(', ')
  const told = (at: number) => `${categories[at]!} ${first.printed[at]!}`.trim()
  const head = `${title ?? 'Chart'}, ${form}`
  if (steps) return `${head}: from ${told(0)} to ${told(categories.length - 1)} in ${categories.length - 2} steps.`
  if (round) {
    const whole = known.reduce((sum, each) => sum + each.value, 0)
    return `${head}: ${categories.length} parts, the largest ${told(high.at)} (${Math.round(percentOf(high.value, whole))} %).`
  }
  if (scatter) return `${head}: ${categories.length} points of ${names}.`
  const shares = runningShare ? ', in falling order with their running share' : ''
  const many = `${categories.length} ${categories.length === 1 ? 'category' : 'categories'}`
  const ends = `from ${categories[0]!} to ${categories.at(-1)!}; highest ${told(high.at)}, lowest ${told(low.at)}`
  return `${head} of ${names} by ${many}${shares}, ${ends}.`
}
