import type { BlockShape } from './shape'
import { type BlockBase, blockFields } from './base'
import { array, boolean, mixed, object, string } from 'yup'
import { hex, hexFault, name, plain, points } from '../checks'

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

export const chartSchema = object({
  ...blockFields,
  kind: mixed().oneOf(['chart']).required(),
  statement: name,
  left: points.min(0),
  width: points.min(0),
  height: points.min(40),
  form: mixed()
    .oneOf([...chartForms])
    .required(),
  columns: array(name),
  title: plain,
  legend: boolean().strict().required(),
  figures: boolean().strict().required(),
  series: array(
    object({
      line: name,
      form: mixed().oneOf(['bars', 'lines', 'areas']),
      colour: string().strict().matches(hex, { message: hexFault }),
    }).noUnknown(),
  )
    .required()
    .max(20),
}).noUnknown()

export const chartShape: BlockShape<ChartBlock> = { kind: 'chart', schema: () => chartSchema }

export const isChart = (block: { kind: string } | undefined): block is ChartBlock => block?.kind === 'chart'
