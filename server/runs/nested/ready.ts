import equal from 'fast-deep-equal'
import { changeNested } from '../../../core/definition/edits/nested'
import { nestedPlaces } from '../../../core/model/nested'
import { type AssembledReport, assembleReport } from '../../../core/compose/assemble'
import { nestedReport } from '../../../core/compose/nested/make'
import type { NestedReport, NestedReports } from '../../../core/compose/nested/reports'
import type { ReportDefinition } from '../../../core/definition/report'
import { checkFormula } from '../../../core/formula/check'
import { scaleOf } from '../../../core/formula/scale'
import type { NestedTotal } from '../../../core/definition/blocks/nested'
import { FormulaError } from '../../../core/formula/syntax'
import type { Typed } from '../../../core/formula/typed'
import { RunError, type RunInput } from '../input'

/** A report nested in another, made ready: its answers come from the records around it. */
export interface NestedRun extends RunInput {
  report: AssembledReport
  /** what composing needs to know of it */
  printed: NestedReport
  /** the totals that it hands out */
  totals: { name: string; typed: Typed }[]
  inside?: NestedRuns
}
export type NestedRuns = ReadonlyMap<string, NestedRun>

/** A report with the totals of its nested ones as these hand them out now. */
export function withTotalsAsNow(definition: ReportDefinition, inside: NestedRuns): ReportDefinition {
  return nestedPlaces(definition).reduce((now, { block }) => {
    const own = inside.get(block.id)
    if (!own || !block.totals?.length) return now
    const totals = totalsHanded(own.name, own.definition, own.report).filter(each => block.totals!.some(({ name }) => name === each.name))
    return equal(totals, block.totals) ? now : changeNested(now, block.id, each => ({ ...each, totals }))
  }, definition)
}

/** What composing needs to know of nested reports. */
export const printedOf = (inside: NestedRuns): NestedReports => new Map([...inside].map(([block, { printed }]) => [block, printed]))

/** @throws RunError where one of them has faults */
export function readyNested(nested: RunInput['nested'], preview: boolean): NestedRuns {
  return new Map(
    Object.entries(nested ?? {}).map(([block, input]): [string, NestedRun] => {
      const { name, definition, catalog, today, layout, labels } = input
      const report = assembleReport(definition, catalog, 0, layout)
      const faults = [...report.tree.problems.map(problem => problem.sentence), ...(preview ? [] : layoutFaults(report))]
      if (faults.length) throw new RunError(faults.map(each => `In the nested report “${name}”: ${each}`))
      const inside = readyNested(input.nested, preview)
      const source = { name, definition, catalog, today, ...(layout ? { layout } : {}), labels: { ...labels } }
      const printed = nestedReport(source, printedOf(inside))
      return [block, { ...input, report, printed, totals: handedOut(name, definition, report), ...(inside.size ? { inside } : {}) }]
    }),
  )
}

/** @throws RunError where a formula of one of them has a fault */
function handedOut(name: string, { handsOut }: ReportDefinition, { tree, parameterTypes }: AssembledReport): NestedRun['totals'] {
  return (handsOut ?? []).map(each => {
    try {
      return { name: each.name, typed: checkFormula(each.formula, { levels: tree.levels, level: 0, parameters: parameterTypes }) }
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error
      throw new RunError([
        `In the nested report “${name}”: the total “${each.name}” that it hands out cannot be worked out: ${error.message}`,
      ])
    }
  })
}

/** What is wrong with a layout, each with its place, in sentences. */
export const layoutFaults = ({ layout }: AssembledReport): string[] =>
  layout.problems.map(problem => `${placeWords(problem.block, problem.cell)}: ${problem.sentence}`)

function placeWords(block: string, cell?: string): string {
  return cell ? `“${cell}” in block “${block}”` : `Block “${block}”`
}

/** The totals that a report hands out as another sees them. @throws RunError where a formula of one of them has a fault */
export function totalsHanded(name: string, definition: ReportDefinition, report: AssembledReport): NestedTotal[] {
  return handedOut(name, definition, report).map(({ name: own, typed }, at) => {
    const scale = typed.type === 'number' ? scaleOf(typed) : undefined
    const { format } = definition.handsOut![at]!
    if (typed.type === 'moment') throw new RunError([`The total “${own}” that “${name}” hands out is a moment; hand out its date.`])
    return {
      name: own,
      type: typed.type === 'empty' ? 'text' : typed.type,
      ...(scale === undefined ? {} : { scale }),
      ...(format ? { format } : {}),
    }
  })
}
