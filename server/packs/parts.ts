import type { ParameterDefinition } from '../../core/definition/parameters'
import type { ReportDefinition } from '../../core/definition/report'
import type { PackDefinition, PackReport } from '../../core/pack/definition'
import { fedAnswers, packAnswers } from '../../core/pack/feed'
import type { TieFigure } from '../../core/definition/tieOuts'
import type { AnswerSurroundings } from '../../core/parameter/answers'
import type { Answer } from '../../core/value/value'
import type { LetterWanted } from '../../core/compose/letter'
import type { Context } from '../access/context'
import { readChoices } from '../runs/choices'
import { elsewhereSources } from '../runs/elsewhere'
import { RunError, type RunInput } from '../runs/input'
import type { Planner } from '../runs/planner'
import type { RunPool } from '../runs/pool'
import type { RunRegistry } from '../runs/registry'
import type { Sources } from '../sources/sources'
import type { Store } from '../store/store'

/** A run that a pack makes of one of its reports. */
export interface PlannedPart {
  /** the report's name in the pack, and, where it is repeated, which choice this is of */
  part: string
  report: PackReport
  /** what it is called in the whole */
  title: string
  input: RunInput
}

/** A pack as it is to be run: the answers, and each run that it makes. */
export interface PlannedPack {
  values: Record<string, Answer>
  around: AnswerSurroundings
  parts: PlannedPart[]
}

/** Sources that the reports of a pack read, with those of their tables of other sources, without those of reports nested in them. */
export async function packSources(context: Context, app: PackApp, pack: PackDefinition): Promise<string[]> {
  const found = new Set<string>()
  for (const each of pack.reports) {
    const { definition } = await app.store.report(context, each.report, 'published')
    for (const source of [...definition.dataSets.map(({ source }) => source), ...elsewhereSources(definition)])
      // one that is not here is told of by the report
      if (!source || app.sources.has(source)) found.add(app.sources.get(source).id)
  }
  return [...found]
}

/** The parts of the program that packs work with. */
export interface PackApp {
  store: Store
  sources: Sources
  pool: RunPool
  planner: Planner
  runs: RunRegistry
  /** all that a run needs to know */
  input: (context: Context, name: string, definition: ReportDefinition, answers: Record<string, string>) => Promise<RunInput>
  /** the same, once each answer is known to be among its choices @throws RunError */
  checkedInput: (
    context: Context,
    name: string,
    definition: ReportDefinition,
    answers: Record<string, string>,
    more?: { version?: string; layout?: string | undefined },
  ) => Promise<RunInput>
}

/** What answers of a pack are read with: the clock and calendar of the first source that has a calendar, or of the first. */
export async function aroundOf(context: Context, app: PackApp, sources: readonly string[]): Promise<AnswerSurroundings> {
  let first: AnswerSurroundings | undefined
  for (const id of sources) {
    const { catalog } = await app.sources.catalog(context, id)
    const around = { today: app.sources.get(id).clock(), ...(catalog.calendar ? { calendar: catalog.calendar } : {}) }
    if (catalog.calendar) return around
    first ??= around
  }
  return first ?? { today: app.sources.get('').clock() }
}

/**
 * Works out each run of a pack: its answers out of those of the pack, one run for each choice of a report that is repeated.
 * @throws RunError with all that is wrong, a sentence each
 */
export async function planPack(
  context: Context,
  app: PackApp,
  pack: PackDefinition,
  given: Readonly<Record<string, string>>,
): Promise<PlannedPack> {
  if (!pack.reports.length) throw new RunError(['The pack has no reports yet; add one.'])
  const around = await aroundOf(context, app, await packSources(context, app, pack))
  const { values, problems } = packAnswers(pack, given, around)
  if (problems.length) throw new RunError(problems)
  const parts: PlannedPart[] = []
  for (const report of pack.reports) {
    const { id, name, version, definition } = await app.store.report(context, report.report, 'published')
    const fed = fedAnswers(pack, report, definition.parameters, values, around)
    problems.push(...fed.problems)
    if (fed.problems.length) continue
    const choices = report.each ? await choicesOf(context, app, report, fed.answers, definition.parameters) : [undefined]
    for (const choice of choices) {
      const answers = choice === undefined ? fed.answers : { ...fed.answers, [report.each!.parameter]: choice.value }
      try {
        const input = await app.checkedInput(context, name, definition, answers, { version: `${id} ${version}`, layout: report.layout })
        const letter = letterFor(pack, report.id)
        parts.push({
          part: choice === undefined ? report.id : `${report.id} ${choice.value}`,
          report,
          title: [report.name, report.layout, choice?.label].filter(Boolean).join(' · '),
          input: letter ? { ...input, letter } : input,
        })
      } catch (error) {
        if (!(error instanceof RunError)) throw error
        problems.push(...error.sentences.map(sentence => `“${report.name}”: ${sentence}`))
      }
    }
  }
  if (problems.length) throw new RunError(problems)
  return { values, around, parts }
}

/** The choices that a report is repeated for. @throws RunError where it has no such parameter */
async function choicesOf(
  context: Context,
  app: PackApp,
  report: PackReport,
  answers: Record<string, string>,
  parameters: readonly ParameterDefinition[],
): Promise<{ value: string; label: string }[]> {
  const { parameter, values } = report.each!
  const asked = parameters.find(each => each.name === parameter && !each.hidden)
  if (!asked?.choices)
    throw new RunError([`“${report.name}” is repeated for each “${parameter}”, which is no choice of it any more; choose another.`])
  const { definition, name } = await app.store.report(context, report.report, 'published')
  const input = await app.input(context, name, definition, answers)
  const { choices } = await readChoices(context, app, input, parameter, { limit: mostRepeats + 1, ...(values ? { values } : {}) })
  if (choices.length > mostRepeats)
    throw new RunError([`“${report.name}” would be run more than ${mostRepeats} times; choose some of its choices, or split it by record.`])
  return choices
}

/** The letter that goes out with each document of a report, where one does. */
function letterFor(pack: PackDefinition, report: string): LetterWanted | undefined {
  for (const each of pack.to)
    if (each.is === 'records' && each.report === report) {
      const { address, subject, body, name, inLanguages, pages } = each
      return { address, texts: { subject, body, name }, inLanguages, ...(pages ? { pages } : {}) }
    }
  return undefined
}

/** How often a report is repeated at most. */
const mostRepeats = 200

/** Figures that tie-outs across reports ask of one of them, each once. */
export function figuresOf(pack: PackDefinition, report: string): TieFigure[] {
  const asked = pack.ties.flatMap(({ left, right }) => [left, right].filter(side => side.report === report).map(side => side.figure))
  return [...new Map(asked.map(figure => [JSON.stringify(figure), figure])).values()]
}
