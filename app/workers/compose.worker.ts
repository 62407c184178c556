/// <reference lib="webworker" />
import { textBehind } from '../../core/compose/layoutWalk'
import type { Catalog } from '../../core/books/catalog'
import { type AssembledReport, assembleReport, usedFields } from '../../core/compose/assemble'
import { type ComposeOptions, Composer } from '../../core/compose/flow'
import { Values } from '../../core/compose/values'
import { shared } from '../../core/definition/share'
import { type SentNested, takenNested } from '../../core/compose/nested/sent'
import type { NestedReports } from '../../core/compose/nested/reports'
import { readRecordsOf } from '../../core/value/nestedEnvelope'
import type { Box, Page } from '../../core/compose/page'
import { textWidth } from '../../core/compose/fonts'
import { folded } from '../../core/value/text'
import type { LayoutNotice } from '../../core/compose/notices'
import type { LayoutProblem, PreparedLayout } from '../../core/compose/prepared'
import type { DataRecords } from '../../core/value/records'
import type { TieOutResult } from '../../core/definition/tieOuts'
import type { ReportDefinition } from '../../core/definition/report'
import type { Surroundings } from '../../core/formula/evaluate'
import { type BehindFigure, behindFigure } from '../../core/compose/behind'
import type { Standing } from '../../core/formula/standing'
import { readAnswers } from '../../core/parameter/answers'

type Labels = Record<string, Record<string, string>>

/** What the page is asked to show. */
export type ComposeRequest =
  /** the records packed: see packEnvelope */
  | { kind: 'rows'; rows: Uint8Array<ArrayBuffer>; catalog: Catalog; today: number; labels?: Labels }
  | {
      kind: 'compose'
      turn: number
      definition: ReportDefinition
      layout: string
      printed: string
      /** what the tie-outs came to, where they are printed */ tieOuts?: TieOutResult[]
      answers: Record<string, string>
      from: number
      to: number
      /** the page that is looked at: it is sent before the others */ view?: number
      /** the record in view and its first page: its pages are made before those above it */ anchor?: { record: number; page: number }
    }
  | { kind: 'pages'; turn: number; from: number; to: number }
  /** what is behind the figure of a box */
  | { kind: 'trace'; turn: number; block: string; rowId?: string; cell: string; standing: number }
  | { kind: 'seek'; turn: number; what: Sought; after: number }

/**
 * What is looked for among all pages: a text, a kind of row, the longest text or largest number of a column, or the record with most
 * lines.
 */
export type Sought =
  | { text: string }
  | { block: string; row: string }
  | { block: string; longest: string }
  | { block: string; largest: string }
  | { mostLines: string }

export type ComposeReply =
  | {
      kind: 'pages'
      turn: number
      from: number
      pages: Page[]
      problems: LayoutProblem[]
      notices: LayoutNotice[]
      needsAll: boolean
      known: number
      total: number | undefined
      ms: number
    }
  /** the rows at hand lack a field or level that the definition uses */
  | { kind: 'missing'; turn: number }
  | { kind: 'failed'; turn: number; sentence: string }
  | { kind: 'trace'; turn: number; traced: BehindFigure[] }
  /** `page` is −1 where nothing was found */
  | { kind: 'found'; turn: number; page: number; box?: Box }

let rows: { records: DataRecords; catalog: Catalog; today: number; labels?: Labels; nested?: NestedReports } | undefined
let work:
  | {
      turn: number
      pages: Page[]
      source: Generator<Page> | undefined
      /** makes the pages from the first on, where so many are printed as “of n” */
      again: (pageCount?: number) => Generator<Page>
      /** pages are taken to be so many; where they are not, they are made again */
      assumed: number | undefined
      problems: LayoutProblem[]
      notices: () => LayoutNotice[]
      from: number
      to: number
      anchored: boolean
      shown: number
      layout: PreparedLayout
      around: Surroundings
      language: string
      standings: Standing[]
    }
  | undefined
const post = (reply: ComposeReply) => self.postMessage(reply)

self.onmessage = ({ data }: MessageEvent<ComposeRequest>) => {
  if (data.kind === 'rows') {
    const { kind: _, rows: packed, ...around } = data
    // a catalog that says the same is the one that is known: what was made ready for it stays
    const catalog = shared(rows?.catalog, data.catalog)
    const { head, records } = readRecordsOf<{ reports?: Record<string, SentNested> }>(packed)
    rows = { ...around, catalog, records, ...(head.reports ? { nested: takenNested(head.reports, catalog) } : {}) }
    work = counted = undefined
  } else if (data.kind === 'compose') compose(data)
  else if (data.kind === 'trace') trace(data)
  else if (data.kind === 'seek') seek(data)
  else if (work?.turn === data.turn) {
    work.from = data.from
    work.to = data.to
    show(performance.now())
  }
}

/** The definition and answers as they were last: parts that stay the same stay the same objects. */
let known: ReportDefinition | undefined
let answered: ReturnType<typeof readAnswers>['values'] | undefined
/** How many pages there were last. */
let counted: number | undefined
/** What formulas and statements have come to, as long as records, answers and levels stay. */
let worked: { from: readonly unknown[]; values: Values } | undefined

function valuesFor(report: AssembledReport, records: DataRecords, options: ComposeOptions): Values {
  const { language } = report.layout
  const from = [records, options.levels, options.parameters, options.calendar, options.today, options.tieOuts, options.nested, language]
  if (!worked || worked.from.some((each, at) => each !== from[at])) {
    worked = { from, values: new Values(language, options) }
    worked.values.use(records)
  }
  worked.values.speak(language)
  return worked.values
}

function compose(request: ComposeRequest & { kind: 'compose' }): void {
  const start = performance.now()
  if (!rows) return
  try {
    const { records, catalog, today, labels, nested } = rows
    const calendar = catalog.calendar ? { calendar: catalog.calendar } : {}
    const definition = (known = shared(known, request.definition))
    const report = assembleReport(definition, catalog, 0, request.layout)
    const fault = report.tree.problems[0]
    if (fault) return post({ kind: 'failed', turn: request.turn, sentence: fault.sentence })
    const used = usedFields(report, false)
    const complete =
      report.tree.levels.length === records.levels.length &&
      used.every((paths, level) => [...paths].every(path => path in records.levels[level]!.columns))
    if (!complete) return post({ kind: 'missing', turn: request.turn })
    const { parameters, language } = definition
    const read = readAnswers(parameters, request.answers, { today, language, ...calendar, ...(labels ? { labels } : {}) }).values
    const values = (answered = shared(answered, read))
    const standings: Standing[] = []
    const options = {
      levels: report.tree.levels,
      parameters: values,
      today,
      ...calendar,
      boxes: true,
      trace: standings,
      ...(report.layout.archive ? { tags: true } : {}),
      printed: request.printed,
      ...(request.tieOuts ? { tieOuts: request.tieOuts } : {}),
      ...(nested ? { nested } : {}),
    }
    let composing: Composer | undefined
    const source = function* (pageCount?: number, dry = false): Generator<Page> {
      const composer = new Composer(
        report.layout,
        { ...options, ...(pageCount === undefined ? {} : { pageCount }), ...(dry ? { dry, boxes: false } : { checksTold: true }) },
        valuesFor(report, records, options),
      )
      composing = composer
      if (records.levels[0]!.count) yield* composer.add(records)
      yield* composer.end()
    }
    // an edit rarely changes how many pages there are
    let assumed: number | undefined
    if (report.layout.needsPageCount) assumed = counted ??= [...source(0, true)].length
    work = {
      turn: request.turn,
      pages: [],
      source: source(assumed),
      again: source,
      assumed,
      problems: report.layout.problems,
      notices: () => [...report.layout.notices, ...(composing?.notices() ?? [])],
      from: request.from,
      to: request.to,
      anchored: false,
      shown: 0,
      layout: report.layout,
      around: { levels: report.tree.levels, data: records, parameters: values, today, ...calendar },
      language,
      standings,
    }
    const { anchor, turn, to } = request
    if (anchor && report.layout.independent) {
      work.anchored = true
      const pages: Page[] = []
      for (const page of new Composer(report.layout, options, valuesFor(report, records, options)).add(records, anchor.record))
        if (pages.push(page) >= to - anchor.page) break
      post({
        kind: 'pages',
        turn,
        from: anchor.page,
        pages,
        problems: work.problems,
        notices: work.notices(),
        needsAll: work.layout.needsAll,
        known: anchor.page + pages.length,
        total: undefined,
        ms: performance.now() - start,
      })
    } else {
      const { view } = request
      const whole = work.to
      if (view !== undefined && view >= work.from && view < whole - 1) {
        work.to = view + 1
        show(start)
        work.to = whole
        work.shown = 0
      } else show(start)
    }
    // the page in view is painted first; what is not seen follows
    setTimeout(goOn, request.view === undefined ? 0 : 40, work)
  } catch (error) {
    post({ kind: 'failed', turn: request.turn, sentence: error instanceof Error ? error.message : String(error) })
  }
}

/** Makes pages until there are `count`, or no more. */
function advance(count: number): void {
  while (work?.source && work.pages.length < count) {
    const next = work.source.next()
    if (!next.done) work.pages.push(next.value)
    else if (work.layout.needsPageCount && work.assumed !== work.pages.length) {
      counted = work.assumed = work.pages.length
      work.pages = []
      work.shown = 0
      work.source = work.again(counted)
    } else work.source = undefined
  }
}

function show(start: number): void {
  advance(work!.to)
  work!.shown = Math.max(work!.shown, Math.min(work!.to, work!.pages.length))
  const { turn, pages, from, to, problems, notices, source } = work!
  post({
    kind: 'pages',
    turn,
    from,
    pages: pages.slice(from, to),
    problems,
    notices: notices(),
    needsAll: work!.layout.needsAll,
    known: pages.length,
    total: source ? undefined : pages.length,
    ms: performance.now() - start,
  })
}

/** The rest of the pages in short stretches, so that a new edit never waits. */
function goOn(mine: typeof work): void {
  if (work !== mine || !work) return
  const end = performance.now() + 12
  while (work.source && performance.now() < end) advance(work.pages.length + 1)
  if (work.source) setTimeout(goOn, 0, mine)
  // what stands on the screen already is not sent again, unless it was made before the pages above it
  else
    post({
      kind: 'pages',
      turn: work.turn,
      from: work.from,
      pages: work.anchored || work.shown < work.to ? work.pages.slice(work.from, work.to) : [],
      problems: work.problems,
      notices: work.notices(),
      needsAll: work.layout.needsAll,
      known: work.pages.length,
      total: work.pages.length,
      ms: 0,
    })
}

function trace(request: ComposeRequest & { kind: 'trace' }): void {
  if (!work || work.turn !== request.turn) return
  const { layout, around, standings, language } = work
  const [text, at] = [textBehind(layout, request), standings[request.standing]]
  post({ kind: 'trace', turn: request.turn, traced: text && at ? behindFigure(text, at, around, language) : [] })
}

/** All texts inside a box. */
const textIn = (page: Page, box: Box) =>
  page.items.flatMap(item =>
    item.kind === 'text' && item.y > box.y && item.y <= box.y + box.height && item.x >= box.x - 1 && item.x < box.x + box.width
      ? [item]
      : [],
  )

function seek(request: ComposeRequest & { kind: 'seek' }): void {
  if (!work || work.turn !== request.turn) return
  advance(Number.MAX_SAFE_INTEGER)
  const { pages } = work
  const { what, after } = request
  let found: { page: number; box?: Box } | undefined
  if ('text' in what) {
    const wanted = folded(what.text)
    for (let step = 1; step <= pages.length && !found; step++) {
      const index = (after + step + pages.length) % pages.length
      const item = pages[index]!.items.find(each => each.kind === 'text' && folded(each.text).includes(wanted))
      if (item?.kind !== 'text') continue
      const box = pages[index]!.boxes.filter(
        each => each.cell && item.x >= each.x - 1 && item.x <= each.x + each.width && item.y >= each.y && item.y <= each.y + each.height,
      ).at(-1)
      found = { page: index, ...(box ? { box } : {}) }
    }
  } else if ('row' in what) {
    for (let step = 1; step <= pages.length && !found; step++) {
      const index = (after + step + pages.length) % pages.length
      const box = pages[index]!.boxes.find(each => each.block === what.block && each.rowId === what.row && each.cell)
      if (box) found = { page: index, box }
    }
  } else if ('mostLines' in what) {
    const counts = new Map<number, { lines: number; page: number }>()
    pages.forEach((page, index) =>
      page.boxes.forEach(box => {
        if (box.part !== 'line' || box.cell || page.record < 0) return
        const each = counts.get(page.record) ?? { lines: 0, page: index }
        each.lines++
        counts.set(page.record, each)
      }),
    )
    const most = [...counts.values()].sort((a, b) => b.lines - a.lines)[0]
    if (most) found = { page: most.page }
  } else {
    const column = 'longest' in what ? what.longest : what.largest
    let best = -Infinity
    pages.forEach((page, index) =>
      page.boxes.forEach(box => {
        if (box.block !== what.block || box.cell !== column || box.part !== 'line') return
        const texts = textIn(page, box)
        const size =
          'longest' in what
            ? texts.reduce((sum, item) => sum + textWidth(item.text, item.font, item.size), 0)
            : Math.abs(
                Number(
                  texts
                    .map(item => item.text)
                    .join('')
                    .replace(/[^\d,.-]/g, '')
                    .replace(/[,.](?=\d{3}(\D|$))/g, '')
                    .replace(',', '.'),
                ),
              )
        if (size > best) {
          best = size
          found = { page: index, box }
        }
      }),
    )
  }
  post({ kind: 'found', turn: request.turn, page: found?.page ?? -1, ...(found?.box ? { box: found.box } : {}) })
}
