import type { Standing } from '../../formula/standing'
import { currencyOf } from '../../formula/currency'
import { holdsFigures } from '../../statement/columns'
import { moved, scalePowers } from '../../statement/rounding'
import { add, type Decimal, zero } from '../../value/decimal'
import { numberFormat } from '../../value/numberFormat'
import type { Value } from '../../value/value'
import { cellStanding, type Figure, standingOf, together } from '../crosstab/figures'
import { crossedUnder } from '../crosstab/crossed'
import { type AxisPlace, axisPlaces } from '../crosstab/places'
import type { AxisNode, Crossed } from '../../shape/cross'
import { groupingPlace, groupShape } from '../table/grouping'
import type { Values } from '../values'
import type { PreparedCrosstab, PreparedMeasure } from '../crosstab/prepare'
import type { Place } from '../place'
import type { PreparedTable } from '../prepared'
import { laidStatement, patternFor } from '../statement/lay'
import type { PreparedStatement } from '../statement/prepare'
import { pieces } from '../table/pieces'
import { onlyValue, patternOf } from '../text'
import { isMeasure } from '../totals'
import { pageWordsOf } from '../words'
import { type ChartSeries, seriesColour } from './data'
import type { ChartForm } from '../../definition/blocks/chart'
import type { PreparedChart } from './prepare'

/** A figure over several categories as if they were one, worked out from their records, with these where they are known. */
export interface Together {
  exact: Decimal | null
  printed: string
  at?: Standing
}

/** A series with its figures as they are, before any is made a length on paper; those of a statement are in its scale. */
export interface FoundSeries extends Omit<ChartSeries, 'values' | 'exact'> {
  exact: (Decimal | null)[]
  /** prints a figure of this kind */
  print: (exact: Decimal) => string
  /** left out where figures of this kind cannot be brought together: a margin of lines, a share */
  together?: (categories: readonly number[]) => Together
}

/** What a source of figures gives, before the form of the chart is thought of. */
export interface Found {
  categories: string[]
  series: FoundSeries[]
  /** pattern of the marks of the axis, where the figures tell one */
  pattern?: string | undefined
  /** the day that each category begins with, where they are dates in their order */
  days?: readonly number[]
  /** do figures of a category add up over the series? Shares and per cents of a statement do not */
  adds?: (category: number) => boolean
}

const isDecimal = (value: Value): value is Decimal => typeof value === 'object' && value !== null
export const decimalOf = (value: Value): Decimal | null => (isDecimal(value) ? value : null)
const plainPattern = '#,##0.##;−#,##0.##'
const bare = (form: ChartForm): ChartSeries['form'] => (form === 'lines' || form === 'areas' || form === 'points' ? form : 'bars')
const sum = (figures: readonly (Decimal | null | undefined)[]): Decimal =>
  figures.reduce<Decimal>((all, each) => (each ? add(all, each) : all), zero)

/** What a chart draws at a place of its layout; nothing where what it draws is gone. */
export function foundFigures(chart: PreparedChart, flow: Place, at: Standing): Found | undefined {
  const { statement, table } = chart
  if (statement) return ofStatement(chart, statement, flow, at)
  if (table) return ofTable(chart, table, flow, at)
  const shape = chart.crosstab ?? chart.own
  return shape && ofCrosstab(chart, shape, flow, at)
}

/** Lines that stand on a statement, over its columns of figures. */
function ofStatement({ block }: PreparedChart, prepared: PreparedStatement, flow: Place, at: Standing): Found {
  const { block: statement, lines } = prepared
  const { shaped, columns, titles } = laidStatement(prepared, flow, at)
  const { language } = flow.values
  const drawn = columns.flatMap((column, index) =>
    !column.column.hidden && (block.columns?.length ? block.columns.includes(column.column.id) : holdsFigures(column.column))
      ? [{ column, index }]
      : [],
  )
  const power = scalePowers[statement.scale]
  const series = block.series.flatMap((own, place): FoundSeries[] => {
    const line = lines.find(each => each.line.id === own.line)
    if (!line) return []
    const row = shaped.rows.find(each => each.line.id === own.line && each.part === 'line')
    // percentages are not in thousands
    const scaled = (exact: Decimal | null | undefined, kind: string): Decimal | null =>
      exact ? (line.line.format || kind === 'percent' || kind === 'share' ? exact : moved(exact, power)) : null
    const [head] = drawn
    const pattern = row && head ? patternFor(statement, row, head.column.column) : plainPattern
    return [
      {
        name: flow.values.print(line.caption)(at) || own.line,
        form: own.form ?? bare(block.form),
        colour: own.colour ?? seriesColour(place),
        exact: drawn.map(({ column, index }) => (row ? scaled(row.exact[index], column.column.kind) : zero)),
        printed: drawn.map(({ column, index }) =>
          row?.figures[index] ? numberFormat(patternFor(statement, row, column.column), language)(row.figures[index]!) : '',
        ),
        print: numberFormat(pattern, language),
        pattern,
      },
    ]
  })
  const ratio = block.series.some(own => lines.find(each => each.line.id === own.line)?.line.format)
  return {
    categories: drawn.map(({ column }) => titles.get(column.id)!),
    series,
    ...(ratio ? { pattern: '0 %' } : {}),
    adds: category => !ratio && !['percent', 'share'].includes(drawn[category]!.column.column.kind),
  }
}

/** Lines as categories and columns as series: what leads from one column to another. Lines of amounts add up, those of ratios do not. */
export function turned({ categories, series, adds, ...rest }: Found): Found {
  const [first] = series
  return {
    ...rest,
    categories: series.map(each => each.name),
    series: categories.map((name, at): FoundSeries => {
      const exact = series.map(each => each.exact[at] ?? null)
      const print = first ? first.print : String
      return {
        name,
        form: 'bars',
        colour: seriesColour(at),
        exact,
        printed: series.map(each => each.printed[at] ?? ''),
        print,
        ...(adds?.(at)
          ? {
              together: (of: readonly number[]) => {
                const whole = sum(of.map(each => exact[each]))
                return { exact: whole, printed: print(whole) }
              },
            }
          : {}),
      }
    }),
  }
}

/** Groups of the rows over what stands across: the columns' groups, or the measures where there are none. */
function ofCrosstab({ block }: PreparedChart, shape: PreparedCrosstab, flow: Place, at: Standing): Found {
  const { crossed, figures } = crossedUnder(shape, flow, at)
  const { rows, columns, categories, days, cells } = gatheredOf(shape, crossed, flow)
  const measures = shape.measures.filter(each => !block.columns?.length || block.columns.includes(each.measure.id))
  const say = (measure: PreparedMeasure) => flow.values.print(measure.caption)({ level: shape.level, from: 0, to: 0 })
  const split = shape.columns.length > 0
  const series = columns.flatMap((column, place) =>
    measures.map((measure, index): FoundSeries => {
      const said = block.measures?.find(each => each.id === measure.measure.id)
      const own = cells(measure, place, () => rows.map(row => figures.figure(measure, row.node, column.node)))
      const order = split ? place * measures.length + index : index
      // a share is one of something else; only what stands by itself can be taken over several groups
      const plain = !measure.measure.look || measure.measure.look === 'plain'
      return {
        name: split ? (measures.length > 1 ? `${nameOf(column.node)}, ${say(measure)}` : nameOf(column.node)) : say(measure),
        form: said?.form ?? bare(block.form),
        colour: (split ? undefined : said?.colour) ?? seriesColour(order),
        ...own,
        print: numberFormat(measure.pattern ?? plainPattern, flow.values.language),
        pattern: measure.pattern,
        ...(said?.second ? { second: true } : {}),
        at: of => cellStanding(shape, crossed, rows[of]!.node, column.node),
        cell: measure.measure.id,
        ...(plain
          ? {
              together: (of: readonly number[]) => {
                const met = together(of.map(each => crossed.meet(rows[each]!.node, column.node)))
                const standing = standingOf(shape.level, met)
                const figure = figures.over(measure, standing)
                return { exact: decimalOf(figure.value), printed: figure.text, ...(standing ? { at: standing } : {}) }
              },
            }
          : {}),
      }
    }),
  )
  return { categories, series, pattern: measures[0]?.pattern, ...(days ? { days } : {}) }
}

const nameOf = (node: AxisNode): string => (node.depth > 0 && node.parent ? `${nameOf(node.parent)} · ${node.label}` : node.label)

/** What stands along and across a crosstab that is drawn; kept as long as its records are the same ones in the same groups. */
interface Gathered {
  rows: AxisPlace[]
  columns: AxisPlace[]
  categories: string[]
  days: readonly number[] | undefined
  /** figures of a measure in a column, as a chart takes them */
  cells: (measure: PreparedMeasure, column: number, make: () => Figure[]) => Pick<FoundSeries, 'exact' | 'printed'>
}

function gatheredOf(shape: PreparedCrosstab, crossed: Crossed, { values }: Place): Gathered {
  const known = values.memo(gatheredOf, () => new WeakMap<Crossed, Gathered>())
  const before = known.get(crossed)
  if (before) return before
  const none = (count: number) => Array.from({ length: count }, () => ({ total: 'none' as const }))
  const rows = axisPlaces(crossed.rows, none(shape.rows.length))
  const whole = pageWordsOf(values.language).total
  const kept = new Map<string, Pick<FoundSeries, 'exact' | 'printed'>>()
  const gathered: Gathered = {
    rows,
    columns: axisPlaces(crossed.columns, none(shape.columns.length)),
    categories: rows.map(({ node }) => (node.depth < 0 ? whole : nameOf(node))),
    days: daysOf(shape, crossed, rows, values),
    cells: ({ measure: { formula, format, look, along } }, column, make) => {
      const key = JSON.stringify([formula, format, look, along, column])
      let found = kept.get(key)
      if (!found) {
        const cells = make()
        kept.set(key, (found = { exact: cells.map(cell => decimalOf(cell.value)), printed: cells.map(cell => cell.text) }))
      }
      return found
    },
  }
  known.set(crossed, gathered)
  return gathered
}

/** The day that each group of dates begins with; nothing where one has none, or they are not in their order. */
function daysOf(shape: PreparedCrosstab, crossed: Crossed, rows: readonly AxisPlace[], values: Values): number[] | undefined {
  const [group, more] = shape.rows
  if (!group || more || group.group.top || !['date', 'moment'].includes(group.by.type)) return undefined
  const { value } = groupShape(group, 0, shape.level, groupingPlace(values))
  const days: number[] = []
  for (const { node } of rows) {
    const { records, from, to } = crossed.meet(node, crossed.columns)
    const day = from < to ? value(records[from]!) : null
    if (typeof day !== 'number' || (days.length && day <= days.at(-1)!)) return undefined
    days.push(day)
  }
  return days
}

/** What stands at the ends of a table's outermost groups, or in its lines where it has none; columns of numbers are the series. */
function ofTable({ block }: PreparedChart, table: PreparedTable, flow: Place, at: Standing): Found {
  const { values, remarks } = flow
  const grouped = table.groups.length > 0
  const categories: string[] = []
  const series = new Map<string, FoundSeries>()
  const standings: Standing[] = []
  let pattern: string | undefined
  const titles = table.rows.find(row => row.row.kind === 'titles')
  // what is to be known of the table is told where it is printed
  const kept = remarks.keep()
  for (const { row, at: standing, frame, table: own } of pieces(flow, table, at, undefined, undefined)) {
    if (own !== table || (grouped ? row.row.kind !== 'groupEnd' || row.depth !== 0 : row.row.kind !== 'line')) continue
    const place = categories.length
    let label = grouped ? (frame.node?.label ?? '') : ''
    for (const cell of row.cells) {
      const only = onlyValue(cell.text.lines)
      if (only?.typed.type !== 'number') {
        if (!label && !grouped) label = values.print(cell.text)(standing)
        continue
      }
      if (block.columns?.length && !block.columns.includes(cell.id)) continue
      const own = patternOf(only.typed, only.pattern)
      pattern ??= own
      let found = series.get(cell.id)
      if (!found) {
        const title = titles?.cells.find(each => each.id === cell.id)
        const figure = values.evaluate(only.typed)
        const adds = grouped || (isMeasure(only.typed) && !currencyOf(only.typed))
        const print = numberFormat(own ?? plainPattern, values.language)
        const over = (of: readonly number[]): Together => {
          if (!grouped) {
            const whole = sum(of.map(each => found!.exact[each]))
            return { exact: whole, printed: print(whole) }
          }
          const whole = standingOf(table.level, together(of.flatMap(each => standings[each]!.covered ?? [])))
          const printed = whole ? values.print(cell.text)(whole) : ''
          const exact = whole && !printed.includes('\n') ? decimalOf(figure(whole)) : null
          return { exact, printed, ...(whole ? { at: whole } : {}) }
        }
        found = {
          name: title ? values.print(title.text)(at) : cell.id,
          form: bare(block.form),
          colour: seriesColour(series.size),
          exact: [],
          printed: [],
          print,
          at: category => standings[category],
          cell: cell.id,
          pattern: own,
          ...(adds ? { together: over } : {}),
        }
        series.set(cell.id, found)
      }
      found.printed[place] = values.print(cell.text)(standing)
      // amounts of several currencies are no number
      found.exact[place] = found.printed[place]!.includes('\n') ? null : decimalOf(values.evaluate(only.typed)(standing))
    }
    categories.push(label)
    standings.push(standing)
  }
  remarks.restore(kept)
  const all = [...series.values()].map(each => ({
    ...each,
    exact: Object.assign(each.exact, { length: categories.length }) as FoundSeries['exact'],
    printed: categories.map((_, place) => each.printed[place] ?? ''),
  }))
  return { categories, series: all, pattern }
}
