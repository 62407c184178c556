import type { ChartBlock, ChartForm } from '../../definition/blocks/chart'
import { chartData, remarkChart } from '../chart/figures'
import { alternativeOf } from '../chart/words'
import { drawChart } from '../chart/draw'
import { type PreparedChart, prepareChart } from '../chart/prepare'
import { blockAmong } from '../among'
import { statementAmong } from '../statement/prepare'
import { type BlockKind, said } from './contract'

/** What forms are called, in the panel and in the text for those who do not see the chart. */
export const chartWords: Record<ChartForm, string> = {
  bars: 'bars side by side',
  stacked: 'bars on one another',
  shares: 'bars to 100 %',
  lines: 'lines',
  areas: 'areas',
  points: 'points',
  pie: 'a pie',
  ring: 'a ring',
  steps: 'steps',
  falling: 'bars in falling order',
}

/** Marks beyond which none is a place of its own on the page. */
const mostPlaces = 1500

/** Figures of a statement, a crosstab, a table or of groups, drawn. */
export const chartKind: BlockKind<ChartBlock, PreparedChart> = {
  kind: 'chart',
  prepare: prepareChart,
  link(chart, all, problem) {
    const { block } = chart
    delete chart.statement
    delete chart.crosstab
    delete chart.table
    if (block.level !== undefined) return
    if (block.of !== undefined) {
      const drawn = blockAmong(all, block.of)
      Object.assign(chart, drawn)
      if (!drawn)
        problem({
          block: block.id,
          place: 'level',
          sentence: `The chart draws “${block.of}”, which is no crosstab or table of this layout; choose another.`,
          from: 0,
          to: 0,
        })
      return
    }
    const drawn = statementAmong(all, block.statement)
    if (drawn) chart.statement = drawn
    const gone = drawn && block.series.find(each => !drawn.block.lines.some(line => line.id === each.line))
    const fault = !drawn
      ? `The chart draws the statement “${block.statement}”, which is not on this layout; choose another.`
      : gone && `The chart draws the line “${gone.line}”, which is not in the statement any more; take it out of the chart.`
    if (fault) problem({ block: block.id, place: 'level', sentence: fault, from: 0, to: 0 })
  },
  *compose(chart, at, composer) {
    const { paper, values } = composer
    paper.open()
    const { block, theme } = chart
    if (!paper.fresh && paper.y + block.height > paper.bodyBottom) yield* paper.newPage()
    if (paper.dry) {
      paper.y += block.height
      return
    }
    const { data, form } = chartData(chart, composer, at) ?? {}
    const title = chart.title && values.print(chart.title)(at)
    const label = chart.alternative ? values.print(chart.alternative)(at) : data && alternativeOf(data, title, chartWords[form!])
    paper.box(block.id, 'block', undefined, chart.x, paper.y, chart.width, block.height, at, undefined, undefined, label)
    if (data) {
      remarkChart(chart, composer, at)
      const box = { x: paper.left + chart.x, y: paper.y, width: chart.width, height: block.height }
      let places = 0
      paper.page!.items.push(
        ...drawChart(data, box, {
          theme,
          ...(title ? { title } : {}),
          legend: block.legend,
          figures: block.figures,
          ...(block.atEnds ? { atEnds: true } : {}),
          ...(block.lying ? { lying: true } : {}),
          ...(block.axis ? { axis: block.axis } : {}),
          onMark: ({ x, y, width, height, series, category }) => {
            const own = data.series[series]
            if (!own || ++places > mostPlaces) return
            const standing = own.at?.(category)
            const words = [
              data.categories[category],
              data.series.length > 1 || !data.categories[category] ? own.name : '',
              own.printed[category],
            ]
            const shown = words.filter(Boolean).join(' · ')
            // what no records are known of leads nowhere
            const behind = standing && (own.cellAt ? own.cellAt(category) : own.cell)
            const cell = `${behind ?? 'mark'} ${series} ${category}`
            paper.box(block.id, 'item', cell, x - paper.left, y, width, height, standing ?? at, undefined, undefined, shown)
          },
        }),
      )
    }
    paper.y += block.height
  },
  textAt: ({ block, own, crosstab, table }, at) => {
    if (at.block !== block.id) return undefined
    const [cell] = at.cell.split(' ')
    const measure = (own ?? crosstab)?.measures.find(each => each.measure.id === cell)
    if (measure) return measure.text
    const kind = table?.groups.length ? 'groupEnd' : 'line'
    return table?.rows.find(row => row.row.kind === kind && (kind === 'line' || row.depth === 0))?.cells.find(each => each.id === cell)
      ?.text
  },
  wordings: block => ({
    texts: said(block.title, block.alternative, block.target?.caption, ...(block.measures ?? []).map(each => each.caption)),
    formulas: said(
      block.showWhen,
      block.target?.formula,
      ...(block.measures ?? []).map(each => each.formula),
      ...[block.by, block.split].flatMap(group => (group ? [group.by, group.having, group.order.total, group.top?.total] : [])),
    ),
    groups: [block.by, block.split].flatMap(group => (group ? [group.id] : [])),
  }),
}
