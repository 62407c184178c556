import type { Standing } from '../../formula/standing'
import { parseDecimal, toNumber } from '../../value/decimal'
import { numberFormat } from '../../value/numberFormat'
import { remarkCurrencies } from '../crosstab/notices'
import { cellStanding } from '../crosstab/figures'
import { crossedUnder } from '../crosstab/crossed'
import type { Place } from '../place'
import { patternOf } from '../text'
import { pageWordsOf } from '../words'
import type { ChartForm } from '../../definition/blocks/chart'
import { type ChartData, type ChartSeries, extentOf } from './data'
import { formed } from './forms'
import { decimalOf, foundFigures, turned } from './found'
import type { PreparedChart } from './prepare'

/** Forms whose parts are the lines of a statement, not its columns. */
const wantsParts = (form: ChartForm) => form === 'steps' || form === 'falling' || form === 'pie' || form === 'ring'

/** What a chart draws at a place of its layout; nothing where what it draws is gone. What cannot be drawn so is noticed. */
export function chartData(chart: PreparedChart, flow: Place, at: Standing): { data: ChartData; form: ChartForm } | undefined {
  const { block } = chart
  const { language } = flow.values
  const source = foundFigures(chart, flow, at)
  if (!source) return undefined
  const found = chart.statement && wantsParts(block.form) ? turned(source) : source
  const tell = (key: string, sentence: string) =>
    flow.remarks.count(`${key} ${block.id}`, { kind: 'chart', block: block.id, part: 'block', sentence, remedies: [] })
  const { form, refused, ...shown } = formed(block.form, found, pageWordsOf(language))
  if (refused) tell('form', refused)
  if (found.series.some(each => each.printed.some((text, place) => text.includes('\n') && !each.exact[place])))
    tell('mixed', 'Some figures are of several currencies, and are not drawn; draw one currency, or a figure in that of the company.')
  const stacked = form === 'stacked' || form === 'shares'
  const scatter = form === 'points' && !chart.statement && found.series.length === 2
  // what stands on one another is read at one axis
  const one = stacked || form === 'steps' || form === 'falling' || scatter || !!block.lying
  const series: ChartSeries[] = one ? shown.series.map(({ second: _, ...each }) => each) : shown.series
  const goal = targetOf(chart, flow, at)
  const { low, high } = extentOf(series.filter(each => !each.second).map(each => each.values))
  const { from = -Infinity, to = Infinity, log } = block.axis ?? {}
  if (low < from || high > to) tell('ends', 'Some figures lie beyond the ends of the axis, and are drawn up to them.')
  if (log && (stacked || form === 'steps' || low <= 0))
    tell('log', 'An axis by powers of ten has no place for zero and below; the axis is an even one.')
  const most = low > high ? 0 : Math.max(Math.abs(low), Math.abs(high))
  const plain = marks(most, found.pattern?.includes('%') ?? false, language)
  const share = numberFormat('0.#', language)
  const shares = (value: number) => `${share(parseDecimal(value.toFixed(1))!)} %`
  const data: ChartData = {
    categories: shown.categories,
    ...(found.days && found.days.length === shown.categories.length && form === block.form ? { days: found.days } : {}),
    series,
    stacked,
    ...(form === 'shares' ? { shares: true } : {}),
    ...(form === 'pie' || form === 'ring' ? { round: form } : {}),
    ...(form === 'steps' ? { steps: true } : {}),
    ...(form === 'falling' ? { runningShare: true } : {}),
    ...(scatter ? { scatter: true } : {}),
    tick: form === 'shares' ? shares : plain,
    tickRight: form === 'falling' || form === 'pie' || form === 'ring' ? shares : plain,
    ...(goal ? { target: goal } : {}),
  }
  return { data, form }
}

/** Prints the marks of an axis whose largest figure is so large: with as many decimals as tell them apart. */
function marks(most: number, percent: boolean, language: string): (value: number) => string {
  const size = percent ? most * 100 : most
  const decimals = size > 0 && size < 20 ? Math.min(12, Math.max(2, 2 - Math.floor(Math.log10(size)))) : 0
  const part = `#,##0${decimals ? `.${'#'.repeat(decimals)}` : ''}${percent ? ' %' : ''}`
  const print = numberFormat(`${part};−${part}`, language)
  return value => print(parseDecimal(value.toFixed(decimals + (percent ? 2 : 0)))!)
}

/** The line across, where its formula gives a number; its figure is printed as formulas print it. */
function targetOf(chart: PreparedChart, flow: Place, at: Standing): ChartData['target'] {
  if (!chart.target) return undefined
  const { typed, caption } = chart.target
  const exact = decimalOf(flow.values.evaluate(typed)(wholeOf(chart, flow, at)))
  if (!exact) return undefined
  const printed = numberFormat(patternOf(typed) ?? '#,##0.##;−#,##0.##', flow.values.language)(exact)
  return { value: toNumber(exact), label: caption ? `${flow.values.print(caption)(at)} ${printed}` : printed }
}

/** All records that a chart is of: for a target that is a total. What its own measures mix is told. */
function wholeOf(chart: PreparedChart, flow: Place, at: Standing): Standing {
  const shape = chart.own ?? chart.crosstab
  if (!shape) return at
  const { crossed } = crossedUnder(shape, flow, at)
  return cellStanding(shape, crossed, crossed.rows, crossed.columns) ?? at
}

/** Amounts of several currencies that a chart's own measures add up, as a crosstab of them would tell. */
export function remarkChart(chart: PreparedChart, flow: Place, at: Standing): void {
  if (!chart.own) return
  const whole = wholeOf(chart, flow, at)
  if (whole !== at) remarkCurrencies(chart.own, whole, flow)
}
