import type { RowKind } from '../definition/blocks/table'
import type { GroupNode, Standing } from '../formula/standing'
import type { Typed } from '../formula/typed'
import type { Value } from '../value/value'
import type { PageItem } from './page'
import type { Place } from './place'
import type { PreparedBlock, PreparedLayout, PreparedTable } from './prepared'
import type { ResolvedStyle } from './style'
import type { Piece } from './table/pieces'
import type { Values } from './values'

/** What is written into one place of a sheet. Columns count from 0. */
export interface GridCell {
  column: number
  /** id of the table's column, or of the panel's item */
  id: string
  /** how many columns it spans, where it is more than one by its author's will */
  span?: number
  /** it is the title of its row */
  heads?: true
  /** as a page prints it */
  text: string
  /** the value itself, where the cell holds a single number or date and nothing else */
  value?: Value
  /** its Unicode pattern */
  pattern?: string
  /** the formula that the value comes from, in the author's words */
  formula?: string
  style: ResolvedStyle
}

/** One row of a sheet. */
export interface GridRow {
  kind: RowKind | 'panel'
  cells: GridCell[]
  /** how deep it lies in the outline, from 0 */
  depth: number
  /** id of the table it belongs to, and which of its printings: a table inside a repeat is printed once for each record */
  table?: string
  instance?: number
  /** the groups in which it stands, outermost first */
  nodes: readonly GroupNode[]
  /** of a statement: its id, and the rows before or after it whose figures it adds up and takes off */
  id?: string
  adds?: readonly { row: string; by: 1 | -1 }[]
  fill?: string
  above?: string
  below?: string
}

/** What comes along: rows, and marks where a document or an outermost group begins. */
export type GridEvent =
  | { row: GridRow }
  /** with the row of its record */
  | { document: string; at: number }
  | { group: string }
  | { picture: GridPicture; rows: GridRow[] }
  /** comes before the rows of the same figures */
  | { cells: GridCells }

/** The cells of a crosstab by themselves, without its totals: of each its groups on both axes and its figures, in printed order. */
export interface GridCells {
  block: string
  titles: string[]
  rows: () => Generator<Value[]>
}

/** What is drawn, in points from its top left corner; a sheet without pictures takes its figures as rows. */
export interface GridPicture {
  width: number
  height: number
  items: PageItem[]
  /** what it shows, for those who do not see it */
  alternative: string
}

/** Left edge and width of a sheet's columns, in points. */
export interface GridColumns {
  x: number[]
  width: number[]
}

/** The flow of blocks onto a sheet, as a block sees it. */
export interface GridFlow {
  layout: PreparedLayout
  values: Values
  composer: Place
  /** blocks inside a block, in their order */
  blocks: (list: readonly PreparedBlock[], at: Standing) => Generator<GridEvent>
  /** the beginning of a document */
  document: (name: string, at: Standing) => Generator<GridEvent>
  /** the rows of a table, from its pieces in printed order */
  table: (table: PreparedTable, source: Iterable<Piece>) => Generator<GridEvent>
  /** the columns of things side by side, from left to right, in that order; those for which there is none come without */
  placed: (list: readonly { x: number; width: number; right: boolean }[]) => (number | undefined)[]
  /** value and pattern of a cell that holds one number or date */
  valued: (typed: Typed, pattern: string | undefined, at: Standing) => Pick<GridCell, 'value' | 'pattern'>
  /** an empty row */
  blank: () => GridEvent
  /** the flow of a report nested in this one, as it stands in a block, so many points to the right */
  inside: (block: string, x: number, layout: PreparedLayout, values: Values) => GridFlow
}
