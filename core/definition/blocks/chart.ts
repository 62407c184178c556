import type { BlockBase } from './base'

export const chartForms = ['bars', 'stacked', 'lines', 'areas'] as const

/** A line of a statement as it is drawn; `form` where it is not the chart's own: lines over bars. */
export interface ChartSeries {
  line: string
  form?: 'bars' | 'lines' | 'areas'
  colour?: string
}

/** Lines of a statement over its columns, drawn. The statement stands on the same layout; it may be hidden by its rule. */
export interface ChartBlock extends BlockBase {
  kind: 'chart'
  /** id of the statement's block */
  statement: string
  left: number
  /** 0 takes all the text width that is left */
  width: number
  height: number
  form: (typeof chartForms)[number]
  series: ChartSeries[]
  /** columns that are drawn; all that hold figures of the books where nothing is said */
  columns?: string[]
  /** text with values in it */
  title?: string
  legend: boolean
  /** figures stand at bars and points */
  figures: boolean
}
