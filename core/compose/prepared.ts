import type { Standing } from '../formula/standing'
import type { FieldInfo, Typed } from '../formula/typed'
import type { CheckedText } from './text'
import type { ResolvedStyle } from './style'
import type { Picture } from './svgShapes'
import type { Bitmap } from './pictures'
import type { codePicture } from './codes'
import type { PanelBlock } from '../definition/blocks/panel'
import type { Block } from '../definition/blocks/block'
import type { BlockBase } from '../definition/blocks/base'
import type { ColumnDefinition, GroupDefinition, RowDefinition, TableBlock } from '../definition/blocks/table'
import type { TextStyle, ThemeDefinition } from '../definition/style'
import type { PageSetup } from '../definition/page'
import type { LayoutNotice, Remedy } from './notices'

/** Something of a layout that cannot be printed: where it stands and one sentence; `from` and `to` are offsets in its text. */
export interface LayoutProblem {
  block: string
  cell?: string
  row?: string
  place: 'text' | 'outline' | 'showWhen' | 'level' | 'image' | 'group' | 'look' | 'sort' | 'accounts' | 'term' | 'alternative'
  sentence: string
  from: number
  to: number
}

/** A block whose formulas are checked and whose widths are found; each kind adds what it needs. */
export interface PreparedBlock {
  kind: Block['kind']
  block: BlockBase
  /** the level on which it stands */
  level: number
  showWhen?: Typed | undefined
  /** blocks inside it */
  inner?: PreparedBlock[]
  /** it can be composed root by root, and its page numbers start anew with each */
  streams?: boolean
  restarts?: boolean
  /** it prints what the tie-outs came to, or has columns that only the records tell */
  printsTies?: boolean
  columnsByRecords?: boolean
}

/** What is read aloud instead of a picture; nothing of what is only decoration. */
export type Alternative = CheckedText | 'decoration'

export type PreparedItem = { id: string; x: number; y: number; width: number; showWhen?: Typed } & (
  | { kind: 'text'; text: CheckedText; style: ResolvedStyle }
  | { kind: 'image'; height: number; picture?: Picture | Bitmap; from?: Typed; alt?: Alternative }
  | { kind: 'rule'; thickness: number; colour: string; height: number }
  | { kind: 'box'; height: number; fill?: string; border?: string; thickness: number }
  | { kind: 'code'; height: number; code: Parameters<typeof codePicture>[0]; text: CheckedText; alt?: Alternative }
  | { kind: 'payment'; height: number; terms: ReadonlyMap<string, Typed>; alt?: Alternative }
)
/** Items stand in order from the top. */
export interface PreparedPanel extends PreparedBlock {
  kind: 'panel'
  block: PanelBlock
  items: PreparedItem[]
}
export interface PreparedColumn {
  column: ColumnDefinition
  x: number
  width: number
}
export interface PreparedCell {
  /** place among the columns that are shown */
  column: number
  span: number
  id: string
  text: CheckedText
  style: ResolvedStyle
  when?: Typed
  /** a number, printed with this pattern */
  pattern?: string
  picture?: Typed
  /** the records that its figure is of, where these are not those of its row */
  at?: Standing
  /** it is the title of its row */
  heads?: true
  /** a title over several columns, with a line under it as wide as these */
  spans?: true
  /** where repeated values are printed once: what tells this one from another of the same text */
  onceFor?: string
  /** a sum of amounts that have no currency of their own: how many currencies the records have that it adds up */
  mixes?: { count: Typed; field: FieldInfo; currency: string }
}
export interface PreparedRow {
  row: RowDefinition
  /** the place of its group; −1 for rows of the table, the number of groups for lines */
  depth: number
  when?: Typed
  cells: PreparedCell[]
  fill?: string
  above?: string
  below?: string
  nested?: PreparedTable
  /** a report under the line */
  report?: PreparedBlock
  /**
   * rows of a literal table whose figures it adds up (1) and takes off (−1), by their ids, and how much deeper it lies in the outline of
   * a sheet
   */
  adds?: readonly { row: string; by: 1 | -1 }[]
  deeper?: number
}
export interface PreparedGroup {
  group: GroupDefinition
  by: Typed
  /** fields that tell its groups apart, where that is not the value itself; or the record of the level above */
  key?: string[] | 'ancestor'
  code?: string
  total?: Typed
  topTotal?: Typed
  having?: Typed
  /** of an axis: each stretch of dates between these stands there */
  every?: { from: Typed; to: Typed }
}
export interface PreparedLook {
  when: Typed
  columns: ReadonlySet<string>
  kinds: ReadonlySet<string>
  style: TextStyle
  mark: string
}
/** A table's mapping with its formulas checked; `depth` is the place of the group that is one transfer, left out for each line. */
export interface PreparedPayments {
  depth?: number
  terms: ReadonlyMap<string, Typed>
}

export interface PreparedTable extends PreparedBlock {
  kind: 'table'
  block: TableBlock
  x: number
  width: number
  columns: PreparedColumn[]
  groups: PreparedGroup[]
  sort: { by: Typed; descending: boolean }[]
  rows: PreparedRow[]
  /** looks by the place of the row they are checked for: they may differ, since totals do */
  looks: PreparedLook[]
  theme: ThemeDefinition
  /** its rows are told as payments */
  payments?: PreparedPayments
  /** a table whose columns are worked out says what helps where they are too narrow */
  wideRemedies?: Remedy[]
}
/** A letter to each root record, with its formula and texts checked. */
export interface PreparedLetter {
  address: Typed
  /** the language of a record's pages, which is that of its letter */
  language?: Typed
  /** its pages stand in the letter itself, too */
  pages: boolean
  texts: Record<'subject' | 'body' | 'name', CheckedText>
  inLanguages: ReadonlyMap<string, PreparedLetter['texts']>
}

/** A layout with all formulas checked and all widths found; it holds no data. */
export interface PreparedLayout {
  page: PageSetup & { width: number; height: number }
  theme: ThemeDefinition
  language: string
  top?: PreparedPanel
  foot?: PreparedPanel
  firstTop?: PreparedPanel
  firstFoot?: PreparedPanel
  documentName?: CheckedText
  /** a letter to each record, where its pages go out with one */
  letter?: PreparedLetter
  blocks: PreparedBlock[]
  problems: LayoutProblem[]
  notices: LayoutNotice[]
  /** fields that are read, by level */
  used: Set<string>[]
  /** a total over the whole report, or a block outside the root's repeat, needs all records at once */
  needsAll: boolean
  /**
   * what stands on it is worked out for some of the records as for all of them: no total over the report, no parameter, no columns that the
   * records make
   */
  plain: boolean
  /** page words that are known only when the whole run is composed */
  needsPageCount: boolean
  /** its PDF is made to be kept and read aloud */
  archive: boolean
  /** each root record's pages stand by themselves: they are the same whatever comes before */
  independent: boolean
}
