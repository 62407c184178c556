import type { Catalog } from '../../books/catalog'
import type { ReportDefinition } from '../../definition/report'
import type { LevelInfo } from '../../formula/typed'
import type { Day } from '../../value/date'
import type { PreparedLayout } from '../prepared'

/** What a report needs in which others are nested: those it prints, as they are sent to whoever composes. */
export interface NestedSource {
  /** as the library calls it */
  name: string
  definition: ReportDefinition
  catalog: Catalog
  /** of its own source */
  today: Day
  layout?: string
  /** labels of choices that may be answered, as titles print them: by parameter and value */
  labels?: Readonly<Record<string, Readonly<Record<string, string>>>>
}

/** A report as it is nested in another: all that is needed to print records that were read for it. */
export interface NestedReport extends NestedSource {
  /** laid out in a width, in points: without page tops, feet and margins */
  laidOut: (width: number) => { layout: PreparedLayout; levels: readonly LevelInfo[] }
  /** the reports that are nested in it */
  nested?: NestedReports
}
/** By the block in which they stand. */
export type NestedReports = ReadonlyMap<string, NestedReport>
