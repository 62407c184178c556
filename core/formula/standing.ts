import type { Value } from '../value/value'
import type { PageWord } from './typed'

/** Where a formula stands: the records `from` up to (not including) `to` of a level; single values are those of the first. */
export interface Standing {
  level: number
  from: number
  to: number
  page?: Partial<Record<Exclude<PageWord, 'printed'>, number>> & { printed?: string }
  /** the rows of a table that it covers; `from` is the first of them then */
  covered?: Covered
  /** a group's row that stands again on a page the group goes on to */
  continued?: boolean
  /** where the block stands, for what a table without rows prints of the records above it */
  outer?: Standing
  /**
   * first row of this table that is not yet carried: `carried` adds up [carriedFrom, carriedTo), places in `set`, or records where there
   * is none
   */
  carriedFrom?: number
  carriedTo?: number
}

/** A group of a table's rows. Its rows stand together in the table's order, from `from` up to (not including) `to`. */
export interface GroupNode {
  /** −1 for the table as a whole, 0 for its outermost groups */
  depth: number
  from: number
  to: number
  parent?: GroupNode
  children: GroupNode[]
  label: string
  /** place among the groups of its parent, from 1 */
  number: number
  /** what top n left over */
  others?: boolean
}

/** Some rows of a table in printed order: records of its level, the group in which they stand, and whether it is a single line. */
export interface Covered {
  rows: Int32Array
  from: number
  to: number
  node: GroupNode
  line?: boolean
}

/** The group of a depth in which a node stands; −1 is the table. */
export function nodeAt(node: GroupNode, depth: number): GroupNode {
  let at = node
  while (at.depth > depth && at.parent) at = at.parent
  return at
}
/** A formula made ready: its value where it stands. */
export type Evaluate = (at: Standing) => Value
