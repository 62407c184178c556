import type { ValueType } from '../dataset/records'

/** The newest format of a report definition that this program reads and writes. */
export const formatVersion = 1

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
}

export const parameterKinds = ['text', 'whole', 'decimal', 'date', 'dates', 'month', 'period', 'boolean', 'choice', 'choices'] as const
/** `dates` is a date range, `period` one of the source's fiscal calendar, `choices` several choices. */
export type ParameterKind = typeof parameterKinds[number]

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
  list?: { value: string, label: string }[]
  /** parameters whose answers narrow the choices: only rows whose column holds the answer are offered */
  narrowedBy?: { parameter: string, column: string }[]
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

/** A field worked out by a formula over the fields of its level and the levels above it, or totals of those below. */
export interface CalculatedDefinition { name: string, formula: string }

export const childTotalKinds = ['sum', 'count', 'min', 'max', 'latest'] as const

/** A child table added up on its parent (rule 5: it has filters of its own). */
export interface ChildTotalDefinition {
  name: string
  table: string
  /** columns of the level's table and of the child table that must be equal */
  on: JoinPair[]
  total: typeof childTotalKinds[number]
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
  pick?: { sort: SortDefinition[] } | { latest: string, at: string }
  /** records without one are dropped */
  required?: boolean
}

/**
 * A table of the report's own. Levels, related records, child totals and choices name it as "@name", like a data set.
 * - sql: what a statement of the author's gives; its columns' types come from the database; `key` names the columns that tell its rows apart (none: rows are numbered)
 * - summary: one row per group of a base level's records, with measures: totals over the group, or formulas over other measures (a ratio)
 * - stack: the rows of several data sets one under the other; `origin` is a column that tells where a row came from
 */
export type TableDefinition =
  | { kind: 'sql', name: string, text: string, columns: TableColumn[], key: string[] }
  | { kind: 'summary', name: string, base: LevelDefinition, by: CalculatedDefinition[], measures: CalculatedDefinition[] }
  | { kind: 'stack', name: string, origin: string, columns: string[], parts: StackPart[] }

export interface TableColumn { name: string, type: ValueType, scale?: number, databaseType: string }
/** `fields` says for each column of the stack which field of the data set's root goes into it, or a constant written as a formula; absent: empty. */
export interface StackPart { dataSet: string, label: string, fields: Record<string, string> }

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

/** Type of what a formula reads as `param.x`; `texts` stands for several texts, to be used with `in (…)`. */
export type ParameterType = ValueType | 'texts'

/** All that formulas can read of the parameters: `param.month`; of a range `.from` and `.to`; of choices and periods `.label`, as titles print it. */
export function parameterTypes(parameters: readonly ParameterDefinition[]): Record<string, ParameterType> {
  return Object.fromEntries(parameters.flatMap((parameter): [string, ParameterType][] => {
    const { name } = parameter
    switch (parameter.kind) {
      case 'month': case 'date': return [[name, 'date']]
      case 'dates': return [[`${name}.from`, 'date'], [`${name}.to`, 'date'], [`${name}.label`, 'text']]
      case 'whole': case 'decimal': return [[name, 'number']]
      case 'boolean': return [[name, 'boolean']]
      case 'text': return [[name, 'text']]
      case 'choices': return [[name, 'texts'], [`${name}.label`, 'text']]
      case 'choice': return [[name, parameter.choices?.type ?? 'text'], [`${name}.label`, 'text']]
      default: return [[name, 'text'], [`${name}.label`, 'text']]
    }
  }))
}
