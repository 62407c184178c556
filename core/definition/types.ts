import type { ValueType } from '../value/value'
import type { ChartBlock, LedgerTable, StatementBlock } from './statementTypes'
import type { TieOut, TiesBlock } from './tieOutTypes'

/** The newest format of a report definition that this program reads and writes. */
export const formatVersion = 2

/** A report: an immutable value; every edit makes a new one (core/definition/edits.ts). */
export interface ReportDefinition {
  format: typeof formatVersion
  /** language tag of the printed document, e.g. "en-GB" */
  language: string
  parameters: ParameterDefinition[]
  /** the first one is what the layouts print */
  dataSets: DataSetDefinition[]
  /** tables of the report's own, made from texts, summaries and stacked sets; see TableDefinition */
  tables?: TableDefinition[]
  layouts: LayoutDefinition[]
  /** name of the layout that is used where none is asked for; the first where it is left out */
  layout?: string
  /** themes of the report's own, beside ours */
  themes?: ThemeDefinition[]
  /** equalities that must hold at every run */
  tieOuts?: TieOut[]
  /** texts in other languages: language, then the text as written, then its translation */
  translations?: Record<string, Record<string, string>>
}

export const parameterKinds = ['text', 'whole', 'decimal', 'date', 'dates', 'month', 'period', 'boolean', 'choice', 'choices'] as const
/** `dates` is a date range, `period` one of the source's fiscal calendar, `choices` several choices. */
export type ParameterKind = (typeof parameterKinds)[number]

/** A question that the reader answers before a run. They are asked in the order of their list. */
export interface ParameterDefinition {
  name: string
  label: string
  kind: ParameterKind
  required: boolean
  /** a formula; of a date range its first day, with `defaultTo` its last */
  default?: string
  defaultTo?: string
  help?: string
  /** never asked: it takes its default, and cannot be set from outside */
  hidden?: boolean
  /** where the choices of a `choice` or `choices` come from */
  choices?: ChoicesDefinition
}

export interface ChoicesDefinition {
  /** a table of the source, or "@name" for a data set or table of the report; "" where the choices are typed in */
  table: string
  value: string
  label: string
  /** what the values are; text where it is left out */
  type?: ValueType
  /** choices that are typed in, in their order */
  list?: { value: string; label: string }[]
  /** parameters whose answers narrow the choices: only rows whose column holds the answer are offered */
  narrowedBy?: { parameter: string; column: string }[]
}

export interface DataSetDefinition {
  name: string
  source: string
  root: LevelDefinition
  /** captions and formats of fields, by "level.path"; every cell and total of the field follows */
  fields: Record<string, FieldSettings>
}

/** `currency` is the path of the field that holds the amount's currency code, on the same level. */
export interface FieldSettings {
  caption?: string
  format?: string
  currency?: string
}

export interface JoinPair {
  from: string
  to: string
}

/** A field worked out by a formula over the fields of its level and the levels above it, or totals of those below. */
export interface CalculatedDefinition {
  name: string
  formula: string
}

export const childTotalKinds = ['sum', 'count', 'min', 'max', 'latest'] as const

/** A child table added up on its parent (rule 5: it has filters of its own). */
export interface ChildTotalDefinition {
  name: string
  table: string
  /** columns of the level's table and of the child table that must be equal */
  on: JoinPair[]
  total: (typeof childTotalKinds)[number]
  /** a formula over the child's fields; `count` needs none */
  value?: string
  /** for `latest`: the child's field by which the last record is found */
  by?: string
  filters: string[]
}

/** Records of one kind: the root, or a detail level under another. */
export interface LevelDefinition {
  name: string
  caption?: string
  /** a table of the source, or "@name" for a data set or table of the report */
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
  calculated?: CalculatedDefinition[]
  totals?: ChildTotalDefinition[]
  ageings?: AgeingDefinition[]
}

/**
 * An amount of a level sorted into columns by age, or by how far ahead its date lies (rule 25 of the semantics). It gives the level
 * fields called after it: `<name>_0` to `<name>_n`
 * with the amount in the one column where it belongs and empty in all others, `<name>_due` the date that counts, `<name>_from` which of
 * the dates that was (from 0),
 * `<name>_days` the age in days, `<name>_column` the place of the column, and `<name>_weight` the amount times its days.
 */
export interface AgeingDefinition {
  name: string
  /** a formula over the level's own fields */
  amount: string
  /** a formula: the date as of which ages are counted */
  asOf: string
  /** formulas of dates: the first that is not empty counts */
  dates: string[]
  direction: 'past' | 'ahead'
  /** in order; the last one takes what lies beyond all edges */
  columns: AgeColumn[]
}

export const calendarEdges = ['weekEnd', 'monthEnd', 'quarterEnd', 'yearEnd'] as const
/** Closed at its upper edge: days of age, or days ahead of the as-of date, or the end of its week, month, quarter or year. */
export interface AgeColumn {
  label: string
  upTo?: number | (typeof calendarEdges)[number]
}

/** A record that another points at (many to one). */
export interface RelatedDefinition {
  name: string
  table: string
  on: JoinPair[]
  fields: string[]
  related: RelatedDefinition[]
  /** formulas over the record's own columns that must hold: “only stocked items” */
  filters?: string[]
  /** which one, where several are found: the first in an order, or the latest at or before a date */
  pick?: { sort: SortDefinition[] } | { latest: string; at: string }
  /** records without one are dropped */
  required?: boolean
}

/**
 * A table of the report's own. Levels, related records, child totals and choices name it as "@name", like a data set.
 * - sql: what a statement of the author's gives; its columns' types come from the database; `key` names the columns that tell its rows
 *   apart (none: rows are numbered)
 * - summary: one row per group of a base level's records, with measures: totals over the group, or formulas over other measures (a ratio)
 * - stack: the rows of several data sets one under the other; `origin` is a column that tells where a row came from
 */
export type TableDefinition =
  | { kind: 'sql'; name: string; text: string; columns: TableColumn[]; key: string[] }
  | { kind: 'summary'; name: string; base: LevelDefinition; by: CalculatedDefinition[]; measures: CalculatedDefinition[] }
  | { kind: 'stack'; name: string; origin: string; columns: string[]; parts: StackPart[] }
  | OpenItemsTable
  | LedgerTable

/**
 * Documents and money of a sub-ledger that are not settled at a date (rule 24). Its columns are `kind` (the part's label), those asked
 * for, `date`, `amount` (signed), `open` and `booked_open`:
 * what is open in the document's currency, and in the company's at the booked rate. See core/definition/openItems.ts.
 */
export interface OpenItemsTable {
  kind: 'openItems'
  name: string
  /** a formula: the date as of which it is looked at */
  asOf: string
  columns: string[]
  parts: OpenItemsPart[]
}

/** Documents of one table. Formulas are over the table's own fields and related records. */
export interface OpenItemsPart {
  label: string
  table: string
  related: RelatedDefinition[]
  filters: string[]
  /** date of the document */
  date: string
  /** its signed amount: what is owed is positive, what reduces it negative */
  amount: string
  /** the same in the company's currency, as booked */
  booked: string
  fields: Record<string, string>
  settled: Settlement[]
}

/** What was applied to a document, dated: it takes from the amount, or adds to it (to a credit that is used up). */
export interface Settlement {
  table: string
  on: JoinPair[]
  date: string
  amount: string
  booked: string
  adds: boolean
}

export interface TableColumn {
  name: string
  type: ValueType
  scale?: number
  databaseType: string
}
/**
 * `fields` says for each column of the stack which field of the data set's root goes into it, or a constant written as a formula; absent:
 * empty.
 */
export interface StackPart {
  dataSet: string
  label: string
  fields: Record<string, string>
}

export interface SortDefinition {
  field: string
  descending: boolean
}

/** Lengths on the page are points of 1/72 inch. */
export interface LayoutDefinition {
  name: string
  page: PageSetup
  /** name of one of our themes, or of one of the report's own */
  theme?: string
  /** the letterhead that all reports share stands as page top instead of `top` */
  letterhead?: boolean
  top?: PanelBlock
  foot?: PanelBlock
  /** page top and foot of a document's first page, where they differ */
  firstTop?: PanelBlock
  firstFoot?: PanelBlock
  blocks: Block[]
  /** name of the PDF of each document, where each is written by itself: a text with values in it */
  documentName?: string
}

export const pageSizes = ['A4', 'A5', 'A3', 'Letter', 'Legal', 'own'] as const

export interface PageSetup {
  size: (typeof pageSizes)[number]
  /** of a size of its own, in points, standing upright */
  width?: number
  height?: number
  orientation: 'portrait' | 'landscape'
  margins: { top: number; right: number; bottom: number; left: number }
  /** the body is filled column by column, as on sheets of labels */
  columns?: { count: number; gap: number }
}

export type Block = RepeatBlock | PanelBlock | TableBlock | StatementBlock | ChartBlock | TiesBlock | BreakBlock

export interface BlockBase {
  /** unique within the report */
  id: string
  /** a formula; the block is left out where it does not hold */
  showWhen?: string
  /** empty space under it, in points */
  after: number
  /** it stands at the bottom of the body of the page it comes to */
  atBottom?: boolean
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
  /** a formula that gives the language of the record's pages, as a tag like "pt" */
  language?: string
  blocks: Block[]
}

/** Freely placed items; it grows with its text. */
export interface PanelBlock extends BlockBase {
  kind: 'panel'
  /** least height in points */
  height: number
  items: PanelItem[]
}

export type PanelItem = TextItemDefinition | ImageItemDefinition | RuleItemDefinition | BoxItemDefinition | CodeItemDefinition

export interface ItemBox {
  id: string
  x: number
  y: number
  width: number
  /** a formula; the item is left out where it does not hold */
  showWhen?: string
}

export interface TextItemDefinition extends ItemBox {
  kind: 'text'
  /** text with values in it: "Page {{ page.number }}" */
  text: string
  style?: TextStyle
}

/** A picture: SVG text, a data address of a PNG or JPEG, or a formula that gives one of these. */
export interface ImageItemDefinition extends ItemBox {
  kind: 'image'
  height: number
  /** SVG text of shapes with fills (see core/compose/svgShapes.ts), or "data:image/png;base64,…" or the same of a JPEG */
  svg: string
  /** a formula that gives the picture of each record */
  from?: string
}

export interface RuleItemDefinition extends ItemBox {
  kind: 'rule'
  thickness: number
  colour: string
  /** a standing line of this height */
  height?: number
}

export interface BoxItemDefinition extends ItemBox {
  kind: 'box'
  height: number
  fill?: string
  border?: string
  thickness?: number
}

export const codeKinds = ['qrcode', 'code128', 'ean13', 'gs1datamatrix', 'datamatrix'] as const

export interface CodeItemDefinition extends ItemBox {
  kind: 'code'
  code: (typeof codeKinds)[number]
  height: number
  /** text with values in it */
  text: string
}

export interface TextStyle {
  /** a named style of the theme that this one starts from */
  named?: string
  font?: 'sans' | 'serif'
  size?: number
  bold?: boolean
  italic?: boolean
  colour?: string
  align?: Align
  vertical?: 'top' | 'middle' | 'bottom'
  /** what is done with text that is too wide; it wraps where nothing is said */
  overflow?: 'wrap' | 'cut' | 'shrink'
  /** points from the left, or from the right where it is aligned there */
  indent?: number
  /** written from the bottom to the top */
  rotated?: boolean
  /** colour behind the text */
  fill?: string
  /** text with marks in it: **bold**, *italic*, [words](https://…), [words]{size=12 colour=#a13c31} */
  marks?: boolean
}

export type Align = 'left' | 'centre' | 'right'
export type Border = 'hair' | 'thin' | 'thick' | 'double'
export interface RowStyle extends TextStyle {
  above?: Border | 'none'
  below?: Border | 'none'
}

/** Rows of one level. */
export interface TableBlock extends BlockBase {
  kind: 'table'
  level: string
  /** distance from the left edge of the text width */
  left: number
  /** 0 takes all the text width that is left */
  width: number
  columns: ColumnDefinition[]
  /** outermost first */
  groups: GroupDefinition[]
  /** order of lines within their group; absent: that of the level */
  sort?: SortDefinition[]
  /** in the order of their printing within their kind */
  rows: RowDefinition[]
  /** titles stand on each page of the table */
  repeatTitles: boolean
  /** looks by rule; those that hold are put on one after the other */
  looks?: LookRule[]
  /** what the looks mean is printed under the table */
  legend?: boolean
}

export interface ColumnDefinition {
  id: string
  /** points; 0 shares the width that is left */
  width: number
  /** as wide as its longest value needs */
  fit?: boolean
  hidden?: boolean
  /** a value that repeats the one above it is left out */
  once?: boolean
  style?: TextStyle
}

export const rowKinds = ['titles', 'groupStart', 'line', 'extra', 'groupEnd', 'end', 'forward', 'brought'] as const
/** `extra` rows stand under a line; `forward` and `brought` carry a sum over the page. */
export type RowKind = (typeof rowKinds)[number]

export interface RowDefinition {
  id: string
  kind: RowKind
  /** the group of a group's start or end */
  group?: string
  /** a formula. Of the lines the first one whose rule holds is printed; a row of another kind is left out where it does not hold */
  when?: string
  cells: Record<string, CellDefinition>
  style?: RowStyle
  /** a table of a detail level, standing in the row; only in extra rows */
  nested?: TableBlock
}

export interface CellDefinition {
  /** text with values in it */
  text: string
  /** how many columns it spans; 1 where it is left out */
  span?: number
  style?: TextStyle
  /** a formula; the cell is empty where it does not hold */
  when?: string
  /** a formula that gives a picture, which stands before the text, `pictureHeight` points high */
  picture?: string
  pictureHeight?: number
}

export const dateSteps = ['day', 'week', 'month', 'quarter', 'year', 'period'] as const

/** Records that belong together. Grouping by a naming field of a record groups by the record's key (rule 2 of the semantics). */
export interface GroupDefinition {
  /** unique within the table, and the word for `over:` */
  id: string
  /** a formula of the table's level */
  by: string
  /** by stretches of a date, or by ranges of a number: their upper edges */
  step?: (typeof dateSteps)[number]
  edges?: number[]
  /** by the name shown, by the value itself, by a total (a formula), or in a given order of names */
  order: { by: 'name' | 'value' | 'total' | 'given'; total?: string; descending: boolean; given?: string[] }
  /** name of the group of records that have nothing there */
  none?: string
  /** the n first or last by a total; the rest forms one group of this name, or is left out where there is none */
  top?: { count: number; last?: boolean; total: string; others?: string }
  /** a formula over totals; groups in which it does not hold are left out with their records */
  having?: string
  newPage?: boolean
  keepTogether?: boolean
  /** its start stands again on each page it goes on to */
  repeatStart?: boolean
}

/** A look for lines where a rule holds. */
export interface LookRule {
  id: string
  when: string
  /** none: the whole row */
  columns: string[]
  /** row kinds it speaks of; lines where nothing is said */
  kinds?: RowKind[]
  style: TextStyle
  /** a sign before the text */
  mark?: string
  /** what it means, for the legend */
  meaning: string
}

/** One look for a report: a body style, a style for each kind of row, and named styles for texts. */
export interface ThemeDefinition {
  name: string
  body: TextStyle
  /** the colour of lines between and around rows */
  line: string
  /** fill of every other line */
  band?: string
  padding: { x: number; y: number }
  rows: Record<'titles' | 'groupStart' | 'line' | 'extra' | 'groupEnd' | 'end' | 'carried', RowStyle>
  named: Record<string, TextStyle>
}

export interface BreakBlock extends BlockBase {
  kind: 'break'
}

/** Type of what a formula reads as `param.x`; `texts` stands for several texts, to be used with `in (…)`. */
export type ParameterType = ValueType | 'texts'

/**
 * All that formulas can read of the parameters: `param.month`; of a range `.from` and `.to`; of choices and periods `.label`, as titles
 * print it.
 */
export function parameterTypes(parameters: readonly ParameterDefinition[]): Record<string, ParameterType> {
  return Object.fromEntries(
    parameters.flatMap((parameter): [string, ParameterType][] => {
      const { name } = parameter
      switch (parameter.kind) {
        case 'month':
        case 'date':
          return [[name, 'date']]
        case 'dates':
          return [
            [`${name}.from`, 'date'],
            [`${name}.to`, 'date'],
            [`${name}.label`, 'text'],
          ]
        case 'whole':
        case 'decimal':
          return [[name, 'number']]
        case 'boolean':
          return [[name, 'boolean']]
        case 'text':
          return [[name, 'text']]
        case 'choices':
          return [
            [name, 'texts'],
            [`${name}.label`, 'text'],
          ]
        case 'choice':
          return [
            [name, parameter.choices?.type ?? 'text'],
            [`${name}.label`, 'text'],
          ]
        default:
          return [
            [name, 'text'],
            [`${name}.label`, 'text'],
          ]
      }
    }),
  )
}
