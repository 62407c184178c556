import type { AxisGroup, CrosstabBlock } from '../definition/blocks/crosstab'
import type { ChartBlock, ChartMeasure } from '../definition/blocks/chart'
import type { TableBlock } from '../definition/blocks/table'
import type { StatementBlock } from '../definition/blocks/statement'
import { proposeChart } from '../definition/edits/chart'
import { wordOf } from '../definition/edits/tableGroups'
import { freeId } from '../definition/names'
import type { LevelInfo } from '../formula/typed'
import { axisGroupBy, newCrosstab } from './crosstab'

const plain = (id: string): Omit<ChartBlock, 'kind' | 'form'> => ({
  id,
  left: 0,
  width: 0,
  height: 190,
  after: 10,
  series: [],
  legend: true,
  figures: false,
})

/** A chart of a level to begin with: its amount by month, or by what usually divides it. */
export function chartOfLevel(levels: readonly LevelInfo[], level: number, taken: string[]): ChartBlock {
  const { rows, columns, measures } = newCrosstab(levels, level, [])
  const by: AxisGroup | undefined = columns.find(group => group.step) ?? rows[0] ?? columns[0]
  const figures = measures.map(({ id, formula }): ChartMeasure => ({ id, formula }))
  return {
    kind: 'chart',
    ...plain(freeId('chart', taken, true)),
    level: levels[level]!.name,
    ...(by ? { by: { ...by, total: 'none' } } : {}),
    measures: figures,
    form: by?.step ? 'lines' : 'bars',
    legend: false,
  }
}

/** A chart of a crosstab or table of the layout. */
export const chartOfBlock = (block: CrosstabBlock | TableBlock, taken: string[]): ChartBlock => ({
  kind: 'chart',
  ...plain(freeId('chart', taken, true)),
  of: block.id,
  form: 'bars',
})

/** A group of a chart by a field; ids are told apart from those of its other group and its measures. */
export function chartGroup(chart: ChartBlock, field: Parameters<typeof axisGroupBy>[0], formula: string): AxisGroup {
  const taken = [...[chart.by, chart.split].flatMap(each => each?.id ?? []), ...(chart.measures ?? []).map(each => each.id)]
  return { ...axisGroupBy(field, formula), total: 'none', id: freeId(wordOf(formula), taken, true) }
}

/** What a chart can draw: a statement, crosstab or table of its layout, or a level. */
export type Drawn = { statement: StatementBlock } | { of: string } | { level: number }

/** A chart that draws something else from now on, as a new one of that would begin; its looks stay. */
export function drawnFrom(chart: ChartBlock, drawn: Drawn, levels: readonly LevelInfo[]): ChartBlock {
  const { statement: _, of: __, level: ___, by: ____, split: _____, measures: ______, columns: _______, ...looks } = chart
  if ('of' in drawn) return { ...looks, of: drawn.of, series: [] }
  if ('level' in drawn) {
    const { level, by, measures } = chartOfLevel(levels, drawn.level, [])
    return { ...looks, ...(level === undefined ? {} : { level }), ...(by ? { by } : {}), ...(measures ? { measures } : {}), series: [] }
  }
  const { statement, series, columns } = proposeChart(chart.id, drawn.statement)
  return { ...looks, ...(statement === undefined ? {} : { statement }), series, ...(columns ? { columns } : {}) }
}
