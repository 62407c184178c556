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
  /**
   * of a text of an author's on a source that cannot guard it itself: what is seen of each guarded table, by its name; the source takes
   * the text apart and puts that in the table's place
   */
  shown?: ShownTables
  /** whoever asked finds its parts by it */
  tag?: number
}

/** A part of a statement, with the values of its placeholders, which are counted from $1. */
export interface StatementPart {
  text: string
  values: readonly unknown[]
}

/** What is seen of guarded tables, by their names in the catalog. */
export type ShownTables = Readonly<Record<string, ShownTable>>

export interface ShownTable {
  /** the table as it is seen, to stand in a statement of ours */
  seen: StatementPart
  /** holds for records that are seen; their columns stand behind `"seen".` */
  test?: StatementPart
  hidden: readonly string[]
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
