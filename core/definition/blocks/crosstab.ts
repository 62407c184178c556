import { array, boolean, mixed, object } from 'yup'
import { formula, identifier, name, plain, points } from '../checks'
import { type RowStyle, rowStyleSchema, styleSchema, type TextStyle } from '../style'
import { type BlockBase, blockFields } from './base'
import type { BlockShape } from './shape'
import { type GroupDefinition, groupingFields } from './table'

export const axes = ['rows', 'columns'] as const
/** Down the left, or across the top. */
export type Axis = (typeof axes)[number]

/** Groups of an axis, each as in a table, with what stands for all of its neighbours together. */
export interface AxisGroup extends Pick<GroupDefinition, 'id' | 'by' | 'step' | 'edges' | 'order' | 'none' | 'top' | 'having'> {
  /**
   * of an innermost group of dates: each stretch between two dates stands there, with records or without; formulas over parameters and the
   * day
   */
  every?: { from: string; to: string }
  /** what it is called in the corner; the field's own words where nothing is said */
  caption?: string
  /** where the total over its groups stands */
  total: 'before' | 'after' | 'none'
  totalCaption?: string
}

export const measureLooks = ['plain', 'shareOfRow', 'shareOfColumn', 'shareOfAll', 'running', 'difference', 'percent'] as const

/** What stands where a row and a column meet. */
export interface CrosstabMeasure {
  id: string
  /** a total, or a formula over totals */
  formula: string
  caption?: string
  format?: string
  /** how its figure is seen: by itself, as a share, added up along the row, or against the group before it */
  look?: (typeof measureLooks)[number]
  /** of what is added up or held against the one before: along which axis; the columns where nothing is said */
  along?: Axis
  /** cells are shaded by their value */
  shade?: boolean
  style?: TextStyle
}

/** Records of one level: groups down the left, groups across the top, figures where they meet (rules 33 to 36 of the semantics). */
export interface CrosstabBlock extends BlockBase {
  kind: 'crosstab'
  level: string
  left: number
  /** 0 takes all the text width that is left */
  width: number
  /** outermost first */
  rows: AxisGroup[]
  columns: AxisGroup[]
  measures: CrosstabMeasure[]
  /** several measures stand one under the other in the row, instead of side by side in each column */
  stacked?: boolean
  /** where it is too wide: parts side by side on pages, all of a part first or all of the rows of a page first, or all of it smaller */
  wide: 'down' | 'across' | 'smaller'
  repeatTitles: boolean
  titles?: RowStyle
}

export const axisGroupSchema = object({
  ...groupingFields,
  every: object({ from: formula, to: formula }).noUnknown().default(undefined),
  caption: plain.max(200),
  total: mixed().oneOf(['before', 'after', 'none']).required(),
  totalCaption: plain.max(200),
}).noUnknown()

export const mostAxisGroups = 6
const axis = array(axisGroupSchema).required().max(mostAxisGroups)

export const crosstabShape: BlockShape<CrosstabBlock> = {
  kind: 'crosstab',
  schema: () =>
    object({
      ...blockFields,
      kind: name,
      level: name,
      left: points.min(0),
      width: points.min(0),
      rows: axis,
      columns: axis,
      measures: array(
        object({
          id: identifier,
          formula,
          caption: plain.max(200),
          format: plain.max(200),
          look: mixed().oneOf([...measureLooks]),
          along: mixed().oneOf([...axes]),
          shade: boolean().strict(),
          style: styleSchema,
        }).noUnknown(),
      )
        .required()
        .max(20),
      stacked: boolean().strict(),
      wide: mixed().oneOf(['down', 'across', 'smaller']).required(),
      repeatTitles: boolean().strict().required(),
      titles: rowStyleSchema,
    }).noUnknown(),
}

export const isCrosstab = (block: { kind: string } | undefined): block is CrosstabBlock => block?.kind === 'crosstab'
