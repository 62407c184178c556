import type { Catalog } from '../../core/books/catalog'
import { type AssembledReport, assembleReport, usedFields } from '../../core/compose/assemble'
import { Composer } from '../../core/compose/flow'
import type { GridColumns, GridEvent } from '../../core/compose/gridRows'
import { GridMaker } from '../../core/compose/grid'
import type { Page } from '../../core/compose/page'
import { type Plan, planDataSet, type PlanInput } from '../../core/sql/plan'
import { type Chunk, type Fetch, readRecords } from '../../core/read/read'
import type { Answer } from '../../core/value/value'
import type { ReportDefinition } from '../../core/definition/report'
import type { TieOutResult } from '../../core/definition/tieOuts'
import { footnotePrefix, withFootnotes } from '../../core/definition/edits/footnotes'
import { readAnswers } from '../../core/parameter/answers'
import type { Day } from '../../core/value/date'

/** A run that cannot be made: one sentence each. */
export class RunError extends Error {
  constructor(readonly sentences: string[]) {
    super(sentences.join(' '))
  }
}

export interface RunInput {
  name: string
  definition: ReportDefinition
  catalog: Catalog
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
  /** the moment of the run as pages print it, in milliseconds since 1970 */
  moment?: number
}

export interface ReadyRun extends RunInput {
  report: AssembledReport
  parameters: Record<string, Answer>
  /** what the tie-outs came to, where the pages print it */
  tieOuts?: TieOutResult[]
}

export interface Timings {
  fetch: number
  shape: number
  compose: number
  write: number
}

/** Roots read at a time. */
export const rootsPerChunk = 500

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

/** `limit` asks for the first roots only, as a preview does. */
export function planRun(run: ReadyRun, ticked: boolean, limit?: number): Plan {
  return planDataSet({
    levels: run.report.tree.levels,
    used: usedFields(run.report, ticked),
    ...planningOf(run),
    ...(limit === undefined ? {} : { limit }),
  })
}

/** What planning needs to know of a run, whatever is planned. */
export function planningOf(run: ReadyRun): Omit<PlanInput, 'levels' | 'used'> {
  const { model, parameterTypes } = run.report
  return { catalog: model.catalog, tables: model.tables, schema: run.schema, parameterTypes, parameters: run.parameters, today: run.today }
}

/** Counts rows per level and the time of each stage, in milliseconds. */
export class RunMeter {
  readonly ms: Timings = { fetch: 0, shape: 0, compose: 0, write: 0 }
  readonly rows: Record<string, number> = {}
  private reading = 0

  fetch(inner: Fetch): Fetch {
    return async query => {
      const start = performance.now()
      const rows = await inner(query)
      this.ms.fetch += performance.now() - start
      this.reading += performance.now() - start
      return rows
    }
  }

  /** Chunks of records, with the time that is not fetching counted as shaping. */
  async *chunks(run: ReadyRun, plan: Plan, fetch: Fetch, options: { chunk: number; limit?: number }): AsyncGenerator<Chunk> {
    const source = readRecords(plan, this.fetch(fetch), options)
    for (;;) {
      const start = performance.now()
      this.reading = 0
      const next = await source.next()
      this.ms.shape += performance.now() - start - this.reading
      if (next.done) return
      run.report.tree.levels.forEach(
        level => (this.rows[level.name] = (this.rows[level.name] ?? 0) + next.value.records.levels[level.index]!.count),
      )
      yield next.value
    }
  }
}

/** A composer for a run; the time that it takes is counted by its caller. */
export function composerOf(run: ReadyRun, more: { boxes?: boolean; keys?: boolean; pageCount?: number } = {}): Composer {
  // the machine's zone is the company's
  const printed = new Intl.DateTimeFormat(run.definition.language, { dateStyle: 'medium', timeStyle: 'short' }).format(
    run.moment ?? Date.now(),
  )
  return new Composer(run.report.layout, {
    levels: run.report.tree.levels,
    parameters: run.parameters,
    today: run.today,
    ...(run.catalog.calendar ? { calendar: run.catalog.calendar } : {}),
    printed,
    ...(run.tieOuts ? { tieOuts: run.tieOuts } : {}),
    ...more,
  })
}

/** Rows handed on at a time: enough that waiting costs nothing, few enough that memory stays flat. */
const eventsAtOnce = 250

/**
 * The rows of a run's layout for a sheet, in order and some at a time; `columns` come before them. `ownTops` puts the page top at the
 * beginning of each document.
 */
export async function runGrid(
  run: ReadyRun,
  fetch: Fetch,
  meter: RunMeter,
  ownTops: boolean,
  texts = false,
): Promise<{ columns: GridColumns; events: AsyncGenerator<GridEvent[]> }> {
  const plan = planRun(run, false)
  const maker = new GridMaker(composerOf(run), texts)
  const chunks = meter.chunks(run, plan, fetch, { chunk: run.report.layout.needsAll ? Number.MAX_SAFE_INTEGER : rootsPerChunk })
  const begun = run.report.layout.blocks.some(block => block.columnsByRecords) ? await chunks.next() : undefined
  if (begun && !begun.done && begun.value.total) maker.begin(begun.value.records)
  const all = async function* (): AsyncGenerator<Chunk> {
    if (begun && !begun.done) yield begun.value
    yield* chunks
  }
  const events = async function* (): AsyncGenerator<GridEvent[]> {
    let first = true
    for await (const each of all()) {
      if (!each.total) continue
      const rows = maker.rows(each.records, ownTops ? 'documents' : first ? 'first' : 'none')
      first = false
      for (let done = false; !done;) {
        const some: GridEvent[] = []
        const start = performance.now()
        while (some.length < eventsAtOnce) {
          const next = rows.next()
          if ((done = !!next.done)) break
          some.push(next.value as GridEvent)
        }
        meter.ms.compose += performance.now() - start
        if (some.length) yield some
      }
    }
  }
  return { columns: maker.columns, events: events() }
}

/**
 * All pages of a run in order. Memory holds one chunk of records and the pages of one document, unless a total over the whole report
 * needs all records.
 */
export async function* runPages(run: ReadyRun, fetch: Fetch, meter: RunMeter, boxes = false): AsyncGenerator<Page> {
  const plan = planRun(run, false)
  const { layout } = run.report
  const chunk = layout.needsAll ? Number.MAX_SAFE_INTEGER : rootsPerChunk
  const compose = async function* (pageCount: number | undefined, counted: RunMeter): AsyncGenerator<Page> {
    const composer = composerOf(run, { boxes, keys: boxes, ...(pageCount === undefined ? {} : { pageCount }) })
    const timed = function* (pages: Generator<Page>): Generator<Page> {
      for (;;) {
        const start = performance.now()
        const next = pages.next()
        meter.ms.compose += performance.now() - start
        if (next.done) return
        yield next.value
      }
    }
    for await (const each of counted.chunks(run, plan, fetch, { chunk })) {
      if (each.total) yield* timed(composer.add(each.records))
    }
    yield* timed(composer.end())
  }
  let pageCount: number | undefined
  if (layout.needsPageCount) {
    pageCount = 0
    for await (const _ of compose(0, new RunMeter())) pageCount++
  }
  yield* compose(pageCount, meter)
}
