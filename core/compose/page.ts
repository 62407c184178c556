import type { RowKind } from '../definition/blocks/table'
import type { Shape } from './svgShapes'
import type { FontName } from './fonts'
import type { Tag } from './tags'

/** A page as a list of things to draw, in order. All lengths are points of 1/72 inch from the page's top left corner. */
export interface Page {
  width: number
  height: number
  /** counts from 1 over the run */
  overall: number
  /** counts from 1 within the innermost repeat that restarts numbers */
  number: number
  /** row of the root record on which the page starts, over the run; −1 where it stands on none */
  record: number
  /** the record's name, on the first page of a record of a repeat that has an outline */
  label?: string
  /** name of the document that starts here, where documents are written one by one */
  document?: string
  /** where the page foot begins, or the lower margin */
  bodyBottom?: number
  items: PageItem[]
  /** what is read to those who do not see the page, in that order; only where asked for */
  tags?: Tag[]
  /** the language in which it is written, with the tags */
  language?: string
  /** what can be selected, outer things before those inside them; only where asked for */
  boxes: Box[]
}

export type PageItem =
  /** `y` is the baseline */
  | {
      kind: 'text'
      x: number
      y: number
      text: string
      font: FontName
      size: number
      colour: string
      /** written upwards from its point */ rotated?: true
    }
  | { kind: 'fill'; x: number; y: number; width: number; height: number; colour: string }
  /** `scaleY` where the height is scaled differently */
  | { kind: 'shapes'; x: number; y: number; scale: number; scaleY?: number; shapes: readonly Shape[] }
  /** a PNG or JPEG as a data address */
  /** a place that leads to an address */
  | { kind: 'link'; x: number; y: number; width: number; height: number; href: string }
  /** what follows up to its end is one figure, with a text for those who do not see it; nothing is drawn for it */
  | { kind: 'figure'; x: number; y: number; width: number; height: number; alternative: string }
  | { kind: 'figureEnd'; x: number; y: number; width: number; height: number }
  | { kind: 'bitmap'; x: number; y: number; width: number; height: number; data: string }

export type BoxPart = 'block' | 'item' | RowKind

/** Where something of the layout stands on a page. */
export interface Box {
  block: string
  part: BoxPart
  /** id of the table's row */
  rowId?: string
  /** tells what it prints from all else of its kind in any run: of whole rows and panels, only where asked for */
  key?: string
  /** what it shows, in words: of a mark of a chart its figure, of the chart what it tells */
  label?: string
  /** number under which the composer keeps where it stands, for what is behind a figure */
  standing?: number
  /** id of the panel item or table column; undefined for a whole block or row */
  cell: string | undefined
  x: number
  y: number
  width: number
  height: number
  /** the record it prints, as level and row; absent for titles */
  level: number
  row: number
}
