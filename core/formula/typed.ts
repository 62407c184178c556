import type { ChildTotalDefinition, LevelDefinition } from '../definition/levels'
import type { ParameterType } from '../definition/parameters'
import type { Value, ValueType } from '../value/value'
import type { Operator } from './syntax'
import type { CatalogColumn } from '../catalog/types'

/** What a formula may speak of at the place where it stands. */
export interface Scope {
  levels: readonly LevelInfo[]
  /** the level it stands on, −1 where there is none (a parameter's default) */
  level: number
  parameters: Readonly<Record<string, ParameterType>>
  /** what is known of the person who reads, in guards only: lists of texts, as `person.branches` */
  person?: ReadonlySet<string>
  /** are page words (`page.number`) and `carried` known here? */
  page?: boolean
  /** a filter: single values of the level's own records only, and `has` of levels below */
  filter?: boolean
  /** a measure of a summary: totals over the records of one group */
  measure?: boolean
  /** language of the document */
  language?: string
  /** the groups of the table in which it stands, outermost first */
  groups?: readonly string[]
  /** the row it stands in: −1 the table's end or titles, the place of a group for its rows, `line` for lines */
  row?: number | 'line'
  /** measures that are there already: outside of totals a name means one of them first */
  measures?: ReadonlyMap<string, FieldInfo>
}

export type FormulaType = ValueType | 'empty'

/**
 * A formula with its types and levels found. `once` of a total: the level above whose records are each counted once; `list`: the
 * different texts that there are, instead of a sum.
 */
export type Typed = { type: FormulaType } & (
  | { is: 'constant'; value: Value }
  | { is: 'field'; level: number; path: string; field: FieldInfo }
  | { is: 'parameter'; name: string; several?: boolean }
  | { is: 'page'; word: PageWord }
  | { is: 'today' }
  | { is: 'binary'; operator: Operator; left: Typed; right: Typed; share?: boolean }
  | { is: 'negative' | 'not'; value: Typed }
  | { is: 'in'; value: Typed; list: Typed[] }
  | { is: 'between'; value: Typed; low: Typed; high: Typed }
  | { is: 'call'; name: string; arguments: Typed[] }
  | { is: 'if'; cases: { test: Typed; result: Typed }[]; otherwise: Typed }
  | { is: 'ifEmpty'; value: Typed; otherwise: Typed }
  | { is: 'total'; name: string; level: number; value?: Typed; where?: Typed; over?: Over; count?: number; once?: number }
  | { is: 'carried'; value: Typed; list?: boolean }
  | { is: 'has'; level: number; standing: number; where?: Typed }
  | { is: 'running'; level: number; value: Typed; where?: Typed; over?: Over; list?: boolean }
  | { is: 'rank'; value: Typed; over?: Over }
  | { is: 'group'; word: GroupWord }
  | { is: 'period'; name: string; arguments: Typed[] }
)

export const pageWords = ['number', 'count', 'overall', 'overallCount', 'printed'] as const
/** `printed` is the moment at which the pages are made, as text. */
export type PageWord = (typeof pageWords)[number]
export const groupWords = ['name', 'number'] as const
/** The name that a group is shown by, and its place among its neighbours. */
export type GroupWord = (typeof groupWords)[number]

/**
 * What a total is taken over, instead of what its row covers: a level's record, a group of the table (by its place), all of the table, or
 * all records of the run.
 */
export type Over = number | { group: number } | 'table' | 'report'

/** What a field is for: a `measure` is added up; a `rate` (a price, a per cent, days) is averaged at most; the others are neither. */
export type FieldRole = 'key' | 'label' | 'measure' | 'rate' | 'other'

/** One field of a level: a column of its table or of a related record. */
export interface FieldInfo {
  level: number
  /** path from the level: "amount", "item.category.name" */
  path: string
  type: ValueType
  scale?: number
  role: FieldRole
  caption: string
  /** a number or date pattern */
  format?: string
  /** path of the field that holds its currency code, on the same level */
  currency?: string
  /** of a field of an ageing: the field that says which of its dates counted */
  dated?: string
  column: CatalogColumn
  /** path of the related record that holds it; "" for the level's own table */
  record: string
  /** a calculated field: what works it out */
  formula?: Typed
  /** false where the database cannot work it out: its records are read first */
  inSql?: boolean
  /** a ratio: its totals are worked out from totals of its parts; `forced` by the author */
  ratio?: { of: Typed; forced: boolean }
  /** a total that a nested report hands out: the block in which it stands */
  nested?: string
  /** a child total: the child's fields are those of `child`, a level of its own */
  total?: { definition: ChildTotalDefinition; child: LevelInfo; value?: Typed }
}

export interface LevelInfo {
  index: number
  /** −1 for the root */
  parent: number
  children: number[]
  name: string
  caption: string
  definition: LevelDefinition
  key: string[]
  fields: Map<string, FieldInfo>
}
