import type { ChartBlock } from '../../definition/blocks/chart'
import { chartData, remarkChart } from '../chart/figures'
import { alternativeOf } from '../chart/words'
import { drawChart } from '../chart/draw'
import type { DrawOptions } from '../chart/options'
import { chartRows } from '../chart/rows'
import { type PreparedChart, prepareChart } from '../chart/prepare'
import { blockAmong } from '../among'
import { statementAmong } from '../statement/prepare'
import { type BlockKind, said } from './contract'

const drawnAs = ({ block, theme }: PreparedChart, title: string | undefined): DrawOptions => ({
  theme,
  ...(title ? { title } : {}),
  legend: block.legend,
  figures: block.figures,
  ...(block.atEnds ? { atEnds: true } : {}),
  ...(block.lying ? { lying: true } : {}),
  ...(block.axis ? { axis: block.axis } : {}),
})

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
    const { block } = chart
    if (!paper.fresh && paper.y + block.height > paper.bodyBottom) yield* paper.newPage()
    if (paper.dry) {
      paper.y += block.height
      return
    }
    const { data, form } = chartData(chart, composer, at) ?? {}
    const title = chart.title && values.print(chart.title)(at)
    const label = chart.alternative ? values.print(chart.alternative)(at) : data && alternativeOf(data, title, form!, values.language)
    paper.box(block.id, 'block', undefined, chart.x, paper.y, chart.width, block.height, at, undefined, undefined, label)
    if (data) {
      remarkChart(chart, composer, at)
      const box = { x: paper.left + chart.x, y: paper.y, width: chart.width, height: block.height }
      const { items } = paper.page!
      if (label) items.push({ kind: 'figure', ...box, alternative: label })
      items.push(
        ...drawChart(data, box, {
          ...drawnAs(chart, title),
          onMark: ({ x, y, width, height, series, category }) => {
            const own = data.series[series]
            if (!own) return
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
      if (label) items.push({ kind: 'figureEnd', ...box })
    }
    paper.y += block.height
  },
  *grid(chart, at, grid) {
    const place = grid.composer
    const { data, form } = chartData(chart, place, at) ?? {}
    if (!data) return
    const title = chart.title && grid.values.print(chart.title)(at)
    const alternative = chart.alternative
      ? grid.values.print(chart.alternative)(at)
      : alternativeOf(data, title, form!, grid.values.language)
    const size = { width: chart.width, height: chart.block.height }
    const items = drawChart(data, { x: 0, y: 0, ...size }, drawnAs(chart, title))
    yield { picture: { ...size, items, alternative }, rows: chartRows(chart, data, title) }
    yield grid.blank()
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
