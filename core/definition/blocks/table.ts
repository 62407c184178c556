import { type NestedBlock, nestedShape } from './nested'
import { type BlockShape, changedList } from './shape'
import { type BlockBase, blockFields } from './base'
import { type SortDefinition, sortSchema } from '../levels'
import { fullStyleSchema, type RowStyle, rowStyleSchema, styleSchema, type TextStyle } from '../style'
import { type PaymentMapping, paymentMapping } from '../payments'
import { array, boolean, lazy, mixed, number, object, type Schema } from 'yup'
import { formula, identifier, name, plain, points, record, rule, text } from '../checks'

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
  /** its rows are told to a bank as payments */
  payments?: PaymentMapping
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
  /** a report of the library, standing under each line; only in extra rows */
  report?: NestedBlock
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

const columnSchema = object({
  id: name,
  width: points.min(0),
  fit: boolean().strict(),
  hidden: boolean().strict(),
  once: boolean().strict(),
  style: styleSchema,
}).noUnknown()
const cellSchema = object({
  text,
  span: number().strict().integer().min(1).max(200),
  style: styleSchema,
  when: rule,
  picture: rule,
  pictureHeight: number().strict().min(4).max(400),
}).noUnknown()
/** What is checked of a group of records, wherever they are grouped. */
export const groupingFields = {
  id: identifier,
  by: formula,
  step: mixed().oneOf([...dateSteps]),
  edges: array(number().strict().required()),
  order: object({
    by: mixed().oneOf(['name', 'value', 'total', 'given']).required(),
    total: rule,
    descending: boolean().strict().required(),
    given: array(text),
  })
    .noUnknown()
    .required(),
  top: object({
    count: number().strict().integer().min(1).max(100_000).required(),
    last: boolean().strict(),
    total: formula,
    others: plain,
  })
    .noUnknown()
    .default(undefined),
  none: plain,
  having: rule,
}
const groupSchema = object({
  ...groupingFields,
  newPage: boolean().strict(),
  keepTogether: boolean().strict(),
  repeatStart: boolean().strict(),
}).noUnknown()
const lookSchema = object({
  id: name,
  when: formula,
  columns: array(name).required(),
  kinds: array(mixed().oneOf([...rowKinds])),
  style: fullStyleSchema.required(),
  mark: plain.max(4),
  meaning: text,
}).noUnknown()
const rowSchema: Schema = object({
  id: name,
  kind: mixed()
    .oneOf([...rowKinds])
    .required(),
  group: plain,
  when: rule,
  cells: record(cellSchema),
  style: rowStyleSchema,
  nested: lazy((value: object | undefined) => (value === undefined ? mixed().optional() : (tableBlockSchema as Schema))),
  report: lazy((value: object | undefined) => (value === undefined ? mixed().optional() : nestedShape.schema(mixed()))),
}).noUnknown()
export const tableBlockSchema: Schema = object({
  ...blockFields,
  kind: mixed().oneOf(['table']).required(),
  level: name,
  left: points.min(0),
  width: points.min(0),
  columns: array(columnSchema).required().min(1),
  groups: array(groupSchema).required(),
  sort: sortSchema,
  rows: array(rowSchema).required(),
  repeatTitles: boolean().strict().required(),
  looks: array(lookSchema),
  legend: boolean().strict(),
  payments: paymentMapping,
}).noUnknown()

/** What may stand in a row. */
const held = ['nested', 'report'] as const

export const tableShape: BlockShape<TableBlock, TableBlock | NestedBlock> = {
  kind: 'table',
  schema: () => tableBlockSchema,
  inside: block => block.rows.flatMap(row => held.flatMap(part => row[part] ?? [])),
  change: (block, change) => {
    const rows = changedList(block.rows, row =>
      held.reduce((now, part) => {
        const before = now[part]
        const next = before && change(before)
        if (next === before) return now
        const { [part]: _, ...rest } = now
        return next ? { ...rest, [part]: next } : rest
      }, row),
    )
    return rows === block.rows ? block : { ...block, rows }
  },
}

export const isTable = (block: { kind: string } | undefined): block is TableBlock => block?.kind === 'table'
