import type { Standing } from '../../formula/standing'
import type { readPicture } from '../pictures'
import type { PreparedRow } from '../prepared'
import type { wrapRuns } from '../rich'
import type { ResolvedStyle } from '../style'
import type { PrintText } from '../text'

/** A cell with its lines, ready to be drawn. All lengths are points. */
export interface MeasuredCell {
  id: string
  column: number
  x: number
  width: number
  lines: string[]
  style: ResolvedStyle
  late: PrintText | undefined
  /** what a number's end keeps free, so that decimal marks stand under one another */
  tails: number[] | undefined
  /** stretches of one look, line by line, of a text with marks */
  runs: ReturnType<typeof wrapRuns> | undefined
  picture: { found: ReturnType<typeof readPicture>; width: number; height: number } | undefined
}

export interface MeasuredRow {
  row: PreparedRow
  at: Standing
  cells: MeasuredCell[]
  height: number
  /** most lines of text in a cell */
  textLines: number
  fill: string | undefined
  /** texts of the columns that print a repeated value once; none where no column does */
  said: Map<string, string> | undefined
}

/** What the columns that print a value once printed last. */
export type Repeats = Map<string, string>

/** Widths and places of a table's columns once their contents are known, and how wide the ends of its numbers are. */
export interface Geometry {
  x: number[]
  width: number[]
  tails: number[]
}
