import type { PageWord } from './typed'
import type { Covered } from '../shape/groups'

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
