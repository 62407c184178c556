import type { SQL } from 'drizzle-orm'
import type { Catalog } from '../books/catalog'
import type { ParameterType } from '../definition/parameters'
import type { LevelInfo } from '../formula/typed'
import type { Day } from '../value/date'
import type { OwnTable } from '../model/ownTable'
import type { Answer } from '../value/value'

/** What a statement over a data set is planned from. */
export interface PlanInput {
  levels: readonly LevelInfo[]
  catalog: Catalog
  /** the report's own tables */
  tables?: ReadonlyMap<string, OwnTable>
  /** rows of the report's tables of other sources: an array literal for each of their columns */
  elsewhere?: Readonly<Record<string, readonly string[]>>
  /** schema of the source's tables */
  schema: string
  /** fields that are wanted, by level */
  used: readonly ReadonlySet<string>[]
  parameterTypes: Readonly<Record<string, ParameterType>>
  parameters: Readonly<Record<string, Answer>>
  today: Day
  /** a preview: at most so many roots, the first ones in the source's own order of the sort fields */
  limit?: number
  /** only roots whose fields hold one of some values: by path */
  among?: readonly { path: string; values: readonly (string | number | boolean)[] }[]
  /** with a limit: an order that comes before that of the level, by fields of the roots */
  order?: readonly { path: string; descending: boolean }[]
}

/**
 * A level standing in a statement: the names of its tables begin with the prefix, so that a level asked inside another's condition does
 * not hide it.
 */
export interface Place {
  level: LevelInfo
  prefix: string
  restrict?: SQL
}
