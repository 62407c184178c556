import {
  type CalculatedDefinition,
  calculatedSchema,
  type LevelDefinition,
  levelSchema,
  type RelatedDefinition,
  relatedSchema,
} from './levels'
import type { JoinPair } from '../catalog/types'
import type { ValueType } from '../value/value'
import { array, boolean, lazy, mixed, number, object } from 'yup'
import { recordOf } from '../value/checking'
import { formula, formulas, identifier, name, pairs, plain, text } from './checks'

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
  | ElsewhereTable

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

/**
 * The books of the source as rows: one for each account, period, and (where a statement asks for them) version of the budget, branch
 * and department, and one for each account that has
 * none. Its columns are `account`, `account_name`, `account_type`, `account_class`, `account_parent`, `period` (a code of the fiscal
 * calendar; empty for all before the first one that is needed), `version`
 * (empty for what was posted), `branch`, `department`, `debit` and `credit`. Closing journals are left out (rule 31 of the semantics).
 * Periods are those that the report's statements need.
 */
export interface LedgerTable {
  kind: 'ledger'
  name: string
  /** formulas over account, account_type, account_class, account_parent, branch, department and date (of posting): what counts */
  filters: string[]
}

/**
 * A table of another source, read before the report and joined by its values: levels, related records, child totals and stacks name it like
 * any other. Its rows are few: see `mostElsewhere` of server/runs/elsewhere.ts.
 */
export interface ElsewhereTable {
  kind: 'elsewhere'
  name: string
  /** id of the source */
  source: string
  table: string
  columns: TableColumn[]
  /** columns that tell its rows apart; none: rows are numbered as they are read */
  key: string[]
  /** formulas over its own fields that must all hold */
  filters: string[]
}

const columnsSchema = array(
  object({
    name,
    type: mixed().oneOf(['number', 'text', 'date', 'moment', 'boolean']).required(),
    scale: number().strict().integer().min(0).max(40),
    databaseType: name,
  }).noUnknown(),
).required()

const namedFormulas = recordOf(formula, true)
export const tableSchema = lazy((value: { kind?: string }) => {
  switch (value?.kind) {
    case 'sql':
      return object({ kind: name, name: identifier, text, key: array(name).required(), columns: columnsSchema }).noUnknown()
    case 'summary':
      return object({
        kind: name,
        name: identifier,
        base: levelSchema.required(),
        by: calculatedSchema.required(),
        measures: calculatedSchema.required(),
      }).noUnknown()
    case 'stack':
      return object({
        kind: name,
        name: identifier,
        origin: identifier,
        columns: array(identifier).required(),
        parts: array(object({ dataSet: identifier, label: plain.defined(), fields: namedFormulas }).noUnknown()).required(),
      }).noUnknown()
    case 'openItems':
      return object({
        kind: name,
        name: identifier,
        asOf: formula,
        columns: array(identifier).required(),
        parts: array(
          object({
            label: plain.defined(),
            table: name,
            related: array(relatedSchema).required(),
            filters: formulas,
            date: formula,
            amount: formula,
            booked: formula,
            fields: namedFormulas,
            settled: array(
              object({
                table: name,
                on: pairs.min(1),
                date: formula,
                amount: formula,
                booked: formula,
                adds: boolean().strict().required(),
              }).noUnknown(),
            ).required(),
          }).noUnknown(),
        ).required(),
      }).noUnknown()
    case 'ledger':
      return object({ kind: name, name: identifier, filters: formulas }).noUnknown()
    case 'elsewhere':
      return object({
        kind: name,
        name: identifier,
        source: name,
        table: name,
        columns: columnsSchema.min(1),
        key: array(name).required(),
        filters: formulas,
      }).noUnknown()
    default:
      return object({ kind: mixed().oneOf(['sql', 'summary', 'stack', 'openItems', 'ledger', 'elsewhere']).required() })
  }
})
