import type { ValueType } from '../value/value'
import type { Column } from '../value/columns'

/** A statement with its values bound, and what its columns hold. */
export interface Query {
  text: string
  values: unknown[]
  columns: { path: string; type: ValueType; scale?: number }[]
  /** it holds a text of an author's: the source runs it in the guarded way only */
  authored?: boolean
  /** the texts of authors in it, as they wrote them */
  texts?: readonly string[]
  /** what the owner of the tables says before a text of an author's is run, so that it sees only what is seen: see policyStatements */
  guard?: readonly string[]
  /** whoever asked finds its parts by it */
  tag?: number
}

/** What a query says of the texts of authors that are in it. */
export const withTexts = (texts: Iterable<string>): Pick<Query, 'authored' | 'texts'> => {
  const list = [...texts]
  return list.length ? { authored: true, texts: list } : {}
}

/** A definition that cannot be read from the source: one sentence. */
export class PlanError extends Error {}

/** What a statement gave: one column each, in the order of its select list. */
export interface Rows {
  count: number
  columns: Column[]
}
