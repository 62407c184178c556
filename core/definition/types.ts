import type { ValueType } from '../dataset/records'

/** The newest format of a report definition that this program reads and writes. */
export const formatVersion = 1

/** A report: an immutable value; every edit makes a new one (core/definition/edits.ts). */
export interface ReportDefinition {
  format: typeof formatVersion
  /** language tag of the printed document, e.g. "en-GB" */
  language: string
  parameters: ParameterDefinition[]
  dataSets: DataSetDefinition[]
  layouts: LayoutDefinition[]
}

export type ParameterKind = 'month' | 'date' | 'text' | 'number' | 'boolean' | 'choice'

/** A question that the reader answers before a run. */
export interface ParameterDefinition {
  name: string
  label: string
  kind: ParameterKind
  required: boolean
  /** a formula */
  default?: string
  help?: string
  /** where the choices of a `choice` come from */
  choices?: { table: string, value: string, label: string }
}

export interface DataSetDefinition {
  name: string
  source: string
  root: LevelDefinition
  /** captions and formats of fields, by "level.path"; every cell and total of the field follows */
  fields: Record<string, FieldSettings>
}

export interface FieldSettings { caption?: string, format?: string }

export interface JoinPair { from: string, to: string }

/** Records of one kind: the root, or a detail level under another. */
export interface LevelDefinition {
  name: string
  caption?: string
  table: string
  /** for a detail level: columns of the parent's table and of this one that must be equal */
  on: JoinPair[]
  /** columns that are shown in the rows */
  fields: string[]
  related: RelatedDefinition[]
  details: LevelDefinition[]
  /** formulas that must all hold; each is one clause */
  filters: string[]
  sort: SortDefinition[]
}

/** A record that another points at (many to one). */
export interface RelatedDefinition {
  name: string
  table: string
  on: JoinPair[]
  fields: string[]
  related: RelatedDefinition[]
}

export interface SortDefinition { field: string, descending: boolean }

/** Lengths on the page are points of 1/72 inch. */
export interface LayoutDefinition {
  name: string
  page: PageSetup
  top?: PanelBlock
  foot?: PanelBlock
  blocks: Block[]
}

export interface PageSetup {
  size: 'A4' | 'Letter'
  orientation: 'portrait' | 'landscape'
  margins: { top: number, right: number, bottom: number, left: number }
}

export type Block = RepeatBlock | PanelBlock | TableBlock | BreakBlock

interface BlockBase {
  /** unique within the report */
  id: string
  /** a formula; the block is left out where it does not hold */
  showWhen?: string
  /** empty space under it, in points */
  after: number
}

/** Its inner blocks once per record of a level. */
export interface RepeatBlock extends BlockBase {
  kind: 'repeat'
  level: string
  newPage: boolean
  /** page numbers count from 1 for each record */
  restartNumbers: boolean
  /** how a record is named in the outline of a run: a text with values in it */
  outline?: string
  blocks: Block[]
}

/** Freely placed items; it grows with its text. */
export interface PanelBlock extends BlockBase {
  kind: 'panel'
  /** least height in points */
  height: number
  items: PanelItem[]
}

export type PanelItem = TextItemDefinition | ImageItemDefinition | RuleItemDefinition

export interface ItemBox { id: string, x: number, y: number, width: number }

export interface TextItemDefinition extends ItemBox {
  kind: 'text'
  /** text with values in it: "Page {{ page.number }}" */
  text: string
  style?: TextStyle
}

export interface ImageItemDefinition extends ItemBox {
  kind: 'image'
  height: number
  /** SVG text of shapes with fills; see core/compose/svgShapes.ts */
  svg: string
}

export interface RuleItemDefinition extends ItemBox {
  kind: 'rule'
  thickness: number
  colour: string
}

export interface TextStyle {
  font?: 'sans' | 'serif'
  size?: number
  bold?: boolean
  italic?: boolean
  colour?: string
  align?: Align
}

export type Align = 'left' | 'centre' | 'right'

/** Rows of one level. */
export interface TableBlock extends BlockBase {
  kind: 'table'
  level: string
  /** distance from the left edge of the text width */
  left: number
  /** 0 takes all the text width that is left */
  width: number
  columns: ColumnDefinition[]
  /** titles stand on each page of the table */
  repeatTitles: boolean
  /** captions of the rows that carry a sum over the page; absent: nothing is carried */
  carried?: { forward: string, brought: string }
  /** is the row at the table's end printed? */
  end: boolean
}

export interface ColumnDefinition {
  id: string
  title: string
  text: string
  /** text at the table's end */
  end: string
  /** does the carried row print what this column has added up? */
  carry: boolean
  /** points; 0 shares the width that is left */
  width: number
  style?: TextStyle
}

export interface BreakBlock extends BlockBase { kind: 'break' }

/** What a parameter kind holds in a formula. */
export const parameterTypes: Record<ParameterKind, ValueType> = {
  month: 'date', date: 'date', text: 'text', number: 'number', boolean: 'boolean', choice: 'text',
}
