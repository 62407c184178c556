import type { BlockShape } from './shape'
import { type BlockBase, blockFields } from './base'
import { array, boolean, mixed, number, object, string } from 'yup'
import { formula, hex, hexFault, identifier, name, plain, points } from '../checks'
import { type AxisGroup, axisGroupSchema } from './crosstab'

export const chartForms = ['bars', 'stacked', 'shares', 'lines', 'areas', 'points', 'pie', 'ring', 'steps', 'falling'] as const
export type ChartForm = (typeof chartForms)[number]
export const seriesForms = ['bars', 'lines', 'areas', 'points'] as const

/** A line of a statement as it is drawn; `form` where it is not the chart's own: lines over bars. */
export interface ChartSeries {
  line: string
  form?: 'bars' | 'lines' | 'areas'
  colour?: string
}

/** A figure of a level's groups that is drawn. */
export interface ChartMeasure {
  id: string
  /** a total, or a formula over totals */
  formula: string
  caption?: string
  format?: string
  form?: (typeof seriesForms)[number]
  colour?: string
  /** it is read at an axis of its own, on the right */
  second?: boolean
}

/**
 * Figures drawn: lines of a statement over its columns, a crosstab or table of the layout, or the groups of a level. What it draws of the
 * layout may be hidden by its rule.
 */
export interface ChartBlock extends BlockBase {
  kind: 'chart'
  /** id of the statement's block */
  statement?: string
  /** id of a crosstab or table */
  of?: string
  /** a level whose records are grouped `by` what stands along the chart, and by what stands beside one another, with its measures */
  level?: string
  by?: AxisGroup
  split?: AxisGroup
  measures?: ChartMeasure[]
  left: number
  /** 0 takes all the text width that is left */
  width: number
  height: number
  form: ChartForm
  /** bars lie, one category under the other */
  lying?: boolean
  series: ChartSeries[]
  /** columns of the statement, crosstab or table that are drawn; all that hold figures where nothing is said */
  columns?: string[]
  /** text with values in it */
  title?: string
  /** what the chart shows, for those who do not see it; written for the author where nothing is said */
  alternative?: string
  legend: boolean
  /** names stand at the ends of lines instead */
  atEnds?: boolean
  /** figures stand at bars and points */
  figures: boolean
  /** the axis by powers of ten, or from and to figures of its own */
  axis?: { log?: boolean; from?: number; to?: number }
  /** a line across: a formula over totals */
  target?: { formula: string; caption?: string }
}

const colourSchema = string().strict().matches(hex, { message: hexFault })
export const chartSchema = object({
  ...blockFields,
  kind: mixed().oneOf(['chart']).required(),
  statement: plain.max(200),
  of: plain.max(200),
  level: plain.max(200),
  by: axisGroupSchema.default(undefined),
  split: axisGroupSchema.default(undefined),
  measures: array(
    object({
      id: identifier,
      formula,
      caption: plain.max(200),
      format: plain.max(200),
      form: mixed().oneOf([...seriesForms]),
      colour: colourSchema,
      second: boolean().strict(),
    }).noUnknown(),
  ).max(20),
  left: points.min(0),
  width: points.min(0),
  height: points.min(40),
  form: mixed()
    .oneOf([...chartForms])
    .required(),
  lying: boolean().strict(),
  columns: array(name),
  title: plain,
  alternative: plain,
  legend: boolean().strict().required(),
  atEnds: boolean().strict(),
  figures: boolean().strict().required(),
  axis: object({ log: boolean().strict(), from: number().strict(), to: number().strict() }).noUnknown().default(undefined),
  target: object({ formula, caption: plain.max(200) })
    .noUnknown()
    .default(undefined),
  series: array(object({ line: name, form: mixed().oneOf(['bars', 'lines', 'areas']), colour: colourSchema }).noUnknown())
    .required()
    .max(20),
})
  .noUnknown()
  .test('drawn', 'a chart draws a statement, a crosstab or table, or a level', value =>
    [value.statement, value.of, value.level].some(each => !!each),
  )

export const chartShape: BlockShape<ChartBlock> = { kind: 'chart', schema: () => chartSchema }

export const isChart = (block: { kind: string } | undefined): block is ChartBlock => block?.kind === 'chart'
