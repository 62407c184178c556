import type { ValueType } from '../value/value'
import type { Column } from '../value/columns'

/** A statement with its values bound, and what its columns hold. */
export interface Query {
  text: string
  values: unknown[]
  columns: { path: string; type: ValueType; scale?: number }[]
  /** it holds a text of an author's: the source runs it in the guarded way only */
  authored?: boolean
  /** whoever asked finds its parts by it */
  tag?: number
}

/** A definition that cannot be read from the source: one sentence. */
export class PlanError extends Error {}

/** What a statement gave: one column each, in the order of its select list. */
export interface Rows {
  count: number
  columns: Column[]
}
