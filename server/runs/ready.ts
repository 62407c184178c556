import { type AssembledReport, assembleReport } from '../../core/compose/assemble'
import { footnotePrefix, withFootnotes } from '../../core/definition/edits/footnotes'
import type { TieOutResult } from '../../core/definition/tieOuts'
import { readAnswers } from '../../core/parameter/answers'
import type { Answer } from '../../core/value/value'
import { RunError, type RunInput } from './input'
import { layoutFaults, type NestedRuns, readyNested, withTotalsAsNow } from './nested/ready'

export interface ReadyRun extends RunInput {
  report: AssembledReport
  parameters: Record<string, Answer>
  /** the reports that are nested in it, made ready */
  inside?: NestedRuns
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
  const inside = readyNested(asked.nested, preview)
  const input = { ...asked, definition: withTotalsAsNow(definition, inside) }
  const report = assembleReport(input.definition, input.catalog, input.dataSet, input.layout, input.letter)
  const { values, problems } = readAnswers(input.definition.parameters, input.answers, {
    today: input.today,
    language: input.definition.language,
    ...(input.catalog.calendar ? { calendar: input.catalog.calendar } : {}),
    ...(input.labels ? { labels: input.labels } : {}),
  })
  const faults = [
    ...problems.map(problem => problem.sentence),
    ...report.tree.problems.map(problem => problem.sentence),
    ...(preview ? [] : layoutFaults(report)),
  ]
  if (faults.length) throw new RunError(faults)
  return { ...input, report, parameters: values, ...(inside.size ? { inside } : {}) }
}
