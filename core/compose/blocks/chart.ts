import type { ChartBlock } from '../../definition/blocks/chart'
import { chartData, drawChart, type PreparedChart } from '../chart'
import { laidStatement } from '../statement/lay'
import { statementAmong } from '../statement/prepare'
import { type BlockKind, said } from './contract'

/** Lines of a statement of the same layout, drawn over its columns. */
export const chartKind: BlockKind<ChartBlock, PreparedChart> = {
  kind: 'chart',
  prepare(block, level, scope) {
    const title = block.title ? scope.text(block.title, scope.at(level), { block: block.id, place: 'outline' }) : undefined
    return {
      kind: 'chart',
      block,
      level,
      showWhen: scope.rule(block, level),
      x: block.left,
      width: block.width || Math.max(60, scope.width - block.left),
      theme: scope.theme,
      ...(title ? { title } : {}),
    }
  },
  link(chart, all, problem) {
    const { block } = chart
    const drawn = statementAmong(all, block.statement)
    if (drawn) chart.statement = drawn
    else delete chart.statement
    const gone = drawn && block.series.find(each => !drawn.block.lines.some(line => line.id === each.line))
    const fault = !drawn
      ? `The chart draws the statement “${block.statement}”, which is not on this layout; choose another.`
      : gone && `The chart draws the line “${gone.line}”, which is not in the statement any more; take it out of the chart.`
    if (fault) problem({ block: block.id, place: 'level', sentence: fault, from: 0, to: 0 })
  },
  *compose(chart, at, composer) {
    const { paper, values } = composer
    paper.open()
    const { block, statement, theme } = chart
    if (!paper.fresh && paper.y + block.height > paper.bodyBottom) yield* paper.newPage()
    paper.box(block.id, 'block', undefined, chart.x, paper.y, chart.width, block.height, at)
    if (statement && !paper.dry) {
      const laid = laidStatement(statement, composer, at)
      const data = chartData(chart, statement, laid, { language: values.language, print: text => values.print(text)(at) })
      const box = { x: paper.left + chart.x, y: paper.y, width: chart.width, height: block.height }
      const title = chart.title && values.print(chart.title)(at)
      paper.page!.items.push(...drawChart(data, box, { theme, ...(title ? { title } : {}), legend: block.legend, figures: block.figures }))
    }
    paper.y += block.height
  },
  wordings: block => ({ texts: said(block.title), formulas: said(block.showWhen) }),
}
