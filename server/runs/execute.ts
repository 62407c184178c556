import { usedFields } from '../../core/compose/assemble'
import { type ComposeOptions, Composer } from '../../core/compose/flow'
import type { Values } from '../../core/compose/values'
import type { GridColumns, GridEvent } from '../../core/compose/gridRows'
import { GridMaker } from '../../core/compose/grid'
import type { Page } from '../../core/compose/page'
import { type Plan, planDataSet } from '../../core/sql/plan'
import { summedReport } from '../../core/compose/crosstab/summed'
import { earlyOrder, earlyRecords } from '../../core/compose/early'
import { type Chunk, type Fetch, readRecords, type ReadOptions } from '../../core/read/read'
import type { ReadyRun } from './ready'
import { RunMeter } from './meter'
import { goOn } from './stop'
import type { PlanInput } from '../../core/sql/planInput'
import { printedOf } from './nested/ready'

/** Roots read at a time, and at first: the first page comes sooner with few. */
const rootsPerChunk = 500
const rootsAtFirst = 40

/**
 * How many roots of a run are read at a time, for its pages or its rows; what is made of rows that a run has kept is read as its pages
 * were.
 */
export function chunksOf(run: ReadyRun, wanted: 'pages' | 'rows'): ReadOptions {
  const chunk = run.chunk ?? rootsPerChunk
  if (wanted === 'rows' && !run.keeps) return { chunk }
  return run.report.layout.needsAll ? { chunk: Number.MAX_SAFE_INTEGER } : { chunk, first: rootsAtFirst }
}

/**
 * What is read: for the pages of the layout, its rows, or all that an author looks at; a run that keeps its rows reads the same for
 * whatever is made of it.
 */
export type Wanted = 'pages' | 'rows' | 'all'
const wantedFields = { pages: [false, 'own'], rows: [true, 'none'], kept: [true, 'own'], all: [true, 'all'] } as const

/** `limit` asks for the first roots only, as a preview does. */
export function planRun(run: ReadyRun, wanted: Wanted, limit?: number, order?: PlanInput['order']): Plan {
  const [ticked, layouts] = wantedFields[run.keeps && wanted !== 'all' && limit === undefined ? 'kept' : wanted]
  return planDataSet({
    levels: run.report.tree.levels,
    used: usedFields(run.report, ticked, layouts),
    ...planningOf(run),
    ...(limit === undefined ? {} : { limit }),
    ...(order ? { order } : {}),
  })
}

/** What planning needs to know of a run, whatever is planned. */
export function planningOf(run: ReadyRun): Omit<PlanInput, 'levels' | 'used'> {
  const { model, parameterTypes } = run.report
  return {
    catalog: model.catalog,
    tables: model.tables,
    schema: run.schema,
    parameterTypes,
    parameters: run.parameters,
    today: run.today,
    ...(run.elsewhere ? { elsewhere: run.elsewhere } : {}),
  }
}

/** A composer for a run; the time that it takes is counted by its caller. */
export function composerOf(
  run: ReadyRun,
  more: Pick<ComposeOptions, 'boxes' | 'keys' | 'pageCount' | 'dry' | 'trace' | 'only' | 'invoices' | 'payments' | 'tags'> = {},
  values?: Values,
): Composer {
  // the machine's zone is the company's
  const printed = new Intl.DateTimeFormat(run.definition.language, { dateStyle: 'medium', timeStyle: 'short' }).format(
    run.moment ?? Date.now(),
  )
  const options = {
    levels: run.report.tree.levels,
    parameters: run.parameters,
    today: run.today,
    ...(run.catalog.calendar ? { calendar: run.catalog.calendar } : {}),
    printed,
    ...(run.tieOuts ? { tieOuts: run.tieOuts } : {}),
    ...(run.inside ? { nested: printedOf(run.inside) } : {}),
    ...more,
  }
  return new Composer(run.report.layout, options, values)
}

/**
 * A run as its pages are made where its rows are not kept: over groups that the source adds up, where what is printed can be worked out
 * from those.
 */
function summedRun(run: ReadyRun): ReadyRun {
  if (run.keeps || run.inside || run.tieOuts) return run
  const found = summedReport(run.definition, run.catalog, run.report)
  return found ? { ...run, ...found } : run
}

/** Rows handed on at a time: enough that waiting costs nothing, few enough that memory stays flat. */
const eventsAtOnce = 250

/**
 * The rows of a run's layout for a sheet, in order and some at a time; `columns` come before them. `ownTops` puts the page top at the
 * beginning of each document.
 */
export async function runGrid(
  asked: ReadyRun,
  fetch: Fetch,
  meter: RunMeter,
  ownTops: boolean,
  texts = false,
): Promise<{ columns: GridColumns; events: AsyncGenerator<GridEvent[]> }> {
  const run = summedRun(asked)
  const plan = planRun(run, 'pages')
  const maker = new GridMaker(composerOf(run), texts)
  const chunks = meter.chunks(run, plan, fetch, chunksOf(run, 'pages'), 'own')
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
        goOn()
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
export async function* runPages(
  asked: ReadyRun,
  fetch: Fetch,
  meter: RunMeter,
  boxes = false,
  told: Pick<ComposeOptions, 'invoices' | 'payments'> = {},
): AsyncGenerator<Page> {
  const run = summedRun(asked)
  const plan = planRun(run, 'pages')
  const { layout } = run.report
  // records that are held at once anyway are read once, and what was worked out from them while pages were counted is kept
  const held: Chunk[] = []
  let values: Values | undefined
  const read = async function* (counted: RunMeter): AsyncGenerator<Chunk> {
    if (held.length) return yield* held
    for await (const each of counted.chunks(run, plan, fetch, chunksOf(run, 'pages'), 'own')) {
      if (layout.needsAll && layout.needsPageCount) held.push(each)
      yield each
    }
  }
  const compose = async function* (pageCount: number | undefined, counted: RunMeter, counting = false): AsyncGenerator<Page> {
    const tags = layout.archive || told.invoices ? { tags: true } : {}
    const more = counting ? { dry: true } : { boxes, keys: boxes, ...told, ...tags, ...(pageCount === undefined ? {} : { pageCount }) }
    const composer = composerOf(run, more, values)
    if (layout.needsAll) values = composer.values
    const timed = function* (pages: Generator<Page>): Generator<Page> {
      for (;;) {
        goOn()
        const start = performance.now()
        const next = pages.next()
        meter.ms.compose += performance.now() - start
        if (next.done) return
        yield next.value
      }
    }
    for await (const each of read(counted)) {
      if (each.total) yield* timed(composer.add(each.records))
    }
    yield* timed(composer.end())
  }
  let pageCount: number | undefined
  if (layout.needsPageCount) {
    pageCount = 0
    for await (const _ of compose(0, layout.needsAll ? meter : new RunMeter(), true)) pageCount++
  }
  yield* compose(pageCount, meter)
}

/**
 * The first page of a run that would otherwise wait for all its records, made from those that it stands on: see earlyOrder. Nothing where
 * there is no such page, or all is read as soon.
 */
export async function earlyPage(run: ReadyRun, fetch: Fetch): Promise<Page | undefined> {
  const { keeps: _, ...passing } = run
  const summed = summedRun(passing)
  if (summed !== passing) for await (const page of runPages(summed, fetch, new RunMeter(), true)) return page
  const order = earlyOrder(run.report.layout)
  if (!order || !run.report.layout.needsAll) return undefined
  const plan = planRun(run, 'pages', earlyRecords, order)
  if (plan.whole) return undefined
  for await (const { records } of readRecords(plan, fetch, { chunk: earlyRecords, limit: earlyRecords })) {
    if (records.levels[0]!.count < earlyRecords) return undefined
    for (const page of composerOf(run, { boxes: true, keys: true }).add(records)) return page
  }
  return undefined
}
