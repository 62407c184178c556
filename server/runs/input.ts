import type { LetterWanted } from '../../core/compose/letter'
import type { ReportDefinition } from '../../core/definition/report'
import type { Catalog } from '../../core/books/catalog'
import type { Day } from '../../core/value/date'

/** A run that cannot be made: one sentence each. */
export class RunError extends Error {
  constructor(readonly sentences: string[]) {
    super(sentences.join(' '))
  }
}

/** How many sentences are told of what cannot be written. */
const mostTold = 20

/** The first of many sentences, and how many more there are. */
export const someOf = (sentences: readonly string[]): string[] => [
  ...sentences.slice(0, mostTold),
  ...(sentences.length > mostTold ? [`${sentences.length - mostTold} more of this kind are not listed.`] : []),
]

export interface RunInput {
  name: string
  definition: ReportDefinition
  /** id of the source that it reads */
  source: string
  catalog: Catalog
  /** tells catalogs apart: threads keep those that they have seen */
  catalogVersion: string
  /** tells definitions apart, where it is one that is kept: its report and version */
  definitionVersion?: string
  schema: string
  answers: Record<string, string>
  /** the source's clock, fixed at the start of the run */
  today: Day
  /** labels of answered choices, as titles print them */
  labels?: Record<string, Record<string, string>>
  /** what is seen of its sources by whoever runs it, where that is not all: see Sources.sight */
  sights?: Record<string, string>
  /** guards that cannot be worked out, so that nothing of their tables is shown: a sentence each */
  guardFaults?: string[]
  /** tie-outs that hold over all records, where whoever runs it does not see all: see rule 37 */
  heldByAll?: string[]
  /** which of the data sets is read; the layouts stand on the first */
  dataSet?: number
  /** name of the layout; the default one where none is said */
  layout?: string
  /** a letter that goes out with the pages of each record */
  letter?: LetterWanted
  /** its rows are kept for what is made of it later */
  keeps?: boolean
  /** what has changed in the source since the report was made, in sentences */
  changes?: string[]
  /** rows of the report’s tables of other sources, as they were when it began */
  elsewhere?: Record<string, string[]>
  /** reports that are nested in its layouts, by block: what they are run with, but for the answers */
  nested?: Record<string, RunInput>
  /** roots read at a time, instead of the usual number */
  chunk?: number
  /** the moment of the run as pages print it, in milliseconds since 1970 */
  moment?: number
}
