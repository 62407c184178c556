import type { JoinPair } from '../catalog/types'
import { array, boolean, lazy, mixed, number, object, type Schema } from 'yup'
import { namesOf } from '../value/checking'
import { formula, formulas, identifier, name, pairs, plain } from './checks'

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

/** A field worked out by a formula over the fields of its level and the levels above it, or totals of those below. */
export interface CalculatedDefinition {
  name: string
  formula: string
  /**
   * how it is totalled, where its author chose it: as a ratio of the totals of its parts, or added up record by record (rule 11 of the
   * semantics)
   */
  total?: 'ratio' | 'records'
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

export interface SortDefinition {
  field: string
  descending: boolean
}

export const sortSchema = array(object({ field: name, descending: boolean().strict().required() }).noUnknown())
export const calculatedSchema = array(
  object({ name: identifier, formula, total: mixed<'ratio' | 'records'>().oneOf(['ratio', 'records']) }).noUnknown(),
)
const pickSchema = lazy((value: unknown) =>
  value === undefined
    ? mixed().optional()
    : namesOf(value).includes('latest')
      ? object({ latest: name, at: formula }).noUnknown()
      : object({ sort: sortSchema.required() }).noUnknown(),
)
export const relatedSchema: Schema<RelatedDefinition> = object({
  name: identifier,
  table: name,
  on: pairs.min(1),
  fields: array(name).required(),
  related: array(lazy(() => relatedSchema.required())).required(),
  filters: array(formula),
  pick: pickSchema,
  required: boolean().strict(),
}).noUnknown() as never
export const levelSchema: Schema<LevelDefinition> = object({
  name: identifier,
  caption: plain,
  table: name,
  on: pairs,
  fields: array(name).required(),
  related: array(relatedSchema).required(),
  details: array(lazy(() => levelSchema.required())).required(),
  filters: formulas,
  sort: sortSchema.required(),
  calculated: calculatedSchema,
  totals: array(
    object({
      name: identifier,
      table: name,
      on: pairs.min(1),
      total: mixed()
        .oneOf([...childTotalKinds])
        .required(),
      value: plain.max(4000),
      by: plain,
      filters: formulas,
    }).noUnknown(),
  ),
  ageings: array(
    object({
      name: identifier,
      amount: formula,
      asOf: formula,
      dates: formulas.min(1),
      direction: mixed().oneOf(['past', 'ahead']).required(),
      columns: array(
        object({
          label: plain.defined(),
          upTo: lazy(value =>
            typeof value === 'string' ? mixed().oneOf([...calendarEdges]) : number().strict().integer().min(-100_000).max(100_000),
          ),
        }).noUnknown(),
      )
        .required()
        .min(2)
        .max(24),
    }).noUnknown(),
  ),
}).noUnknown() as never
