import type { ReportDefinition } from '../../core/definition/report'
import type { Catalog } from '../../core/books/catalog'
import type { Day } from '../../core/value/date'
import { type AssembledReport, assembleReport } from '../../core/compose/assemble'
import type { Answer } from '../../core/value/value'
import type { TieOutResult } from '../../core/definition/tieOuts'
import { footnotePrefix, withFootnotes } from '../../core/definition/edits/footnotes'
import { readAnswers } from '../../core/parameter/answers'

/** A run that cannot be made: one sentence each. */
export class RunError extends Error {
  constructor(readonly sentences: string[]) {
    super(sentences.join(' '))
  }
}

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
  /** which of the data sets is read; the layouts stand on the first */
  dataSet?: number
  /** name of the layout; the default one where none is said */
  layout?: string
  /** its rows are kept for what is made of it later */
  keeps?: boolean
  /** what has changed in the source since the report was made, in sentences */
  changes?: string[]
  /** rows of the report’s tables of other sources, as they were when it began */
  elsewhere?: Record<string, string[]>
  /** roots read at a time, instead of the usual number */
  chunk?: number
  /** the moment of the run as pages print it, in milliseconds since 1970 */
  moment?: number
}

export interface ReadyRun extends RunInput {
  report: AssembledReport
  parameters: Record<string, Answer>
  /** what the tie-outs came to, where the pages print it */
  tieOuts?: TieOutResult[]
}

/**
 * Checks a report and its answers. A preview bears faults of the layout, which the Page stage shows at their place.
 * @throws RunError with every fault found
 */
export function readyRun(asked: RunInput, preview = false): ReadyRun {
  const { report: definition, unknown } = withFootnotes(asked.definition, asked.answers)
  if (unknown.length)
    throw new RunError(
      unknown.map(
        name => `There is no footnote “${name.slice(footnotePrefix.length)}” in the report any more; take it out of the answers.`,
      ),
    )
  const input = { ...asked, definition }
  const report = assembleReport(input.definition, input.catalog, input.dataSet, input.layout)
  const { values, problems } = readAnswers(input.definition.parameters, input.answers, {
    today: input.today,
    language: input.definition.language,
    ...(input.catalog.calendar ? { calendar: input.catalog.calendar } : {}),
    ...(input.labels ? { labels: input.labels } : {}),
  })
  const faults = [
    ...problems.map(problem => problem.sentence),
    ...report.tree.problems.map(problem => problem.sentence),
    ...(preview ? [] : report.layout.problems).map(problem => `${placeWords(problem.block, problem.cell)}: ${problem.sentence}`),
  ]
  if (faults.length) throw new RunError(faults)
  return { ...input, report, parameters: values }
}

function placeWords(block: string, cell?: string): string {
  return cell ? `“${cell}” in block “${block}”` : `Block “${block}”`
}
