import { blocksOf } from '../walk'
import { changeBlock } from './layout'
import { isChart, type ChartBlock } from '../blocks/chart'
import type { StatementBlock, StatementLine } from '../blocks/statement'
import type { ReportDefinition } from '../report'

/** Edits of charts. */

export function changeChart(report: ReportDefinition, id: string, change: (chart: ChartBlock) => ChartBlock): ReportDefinition {
  return changeBlock(report, id, block => (isChart(block) ? change(block) : block))
}

/** Lines that can be drawn. */
export const drawnLines = (block: StatementBlock): StatementLine[] =>
  block.lines.filter(line => line.kind === 'accounts' || line.kind === 'formula' || line.kind === 'sum')

/**
 * A chart to begin with: the given line, or the first and the last that are results, over all columns of figures; lines over time where
 * the statement is a trend.
 */
export function proposeChart(id: string, statement: StatementBlock, line?: string): ChartBlock {
  const lines = drawnLines(statement).filter(each => !each.format)
  const results = lines.filter(each => each.kind !== 'accounts')
  const chosen = lines.find(each => each.id === line)
    ? [line!]
    : [...new Set([results[0] ?? lines[0], results.at(-1)].flatMap(each => (each ? [each.id] : [])))]
  const trend = statement.columns.find(column => column.repeat && column.repeat.over !== 'branch' && column.repeat.over !== 'department')
  return {
    kind: 'chart',
    id,
    statement: statement.id,
    left: 0,
    width: 0,
    height: 170,
    after: 10,
    form: trend ? 'lines' : 'bars',
    series: chosen.map(each => ({ line: each })),
    ...(trend ? { columns: [trend.id] } : {}),
    legend: true,
    figures: false,
  }
}

/** The charts that draw a statement are changed too: a line is called otherwise, or is gone. */
export function followLine(report: ReportDefinition, statement: string, line: string, renamed: string | undefined): ReportDefinition {
  const charts = report.layouts
    .flatMap(blocksOf)
    .filter(
      (block): block is ChartBlock => isChart(block) && block.statement === statement && block.series.some(each => each.line === line),
    )
  return charts.reduce(
    (now, chart) =>
      changeChart(now, chart.id, own => ({
        ...own,
        series: own.series.flatMap(each => (each.line !== line ? [each] : renamed === undefined ? [] : [{ ...each, line: renamed }])),
      })),
    report,
  )
}
