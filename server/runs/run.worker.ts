import { LRUCache } from 'lru-cache'
import type { Catalog } from '../../core/books/catalog'
import { machineSentence } from '../failures'
import { outFile, room, withFiles } from './outFile'
import type { RunOutput } from './output'
import { statementTrace } from './statementTrace'
import { rm } from 'node:fs/promises'
import { finished } from 'node:stream/promises'
import type { Page } from '../../core/compose/page'
import type { Fetch } from '../../core/read/read'
import { invoiceSyntaxes, isInvoiceSyntax } from '../../core/api/outputs'
import { invoicesTo } from './invoices'
import { paymentsTo } from './payments'
import { emptySentence } from '../../core/parameter/sentences'
import { pageSvg } from '../../core/draw/svg'
import { keptBy, PdfWriter } from './formats/pdf'
import { HtmlWriter } from './formats/html'
import { behindOnPage } from './behind'
import { earlyPage, runGrid, runPages } from './execute'
import { RunMeter } from './meter'
import { RunError, type RunInput } from './input'
import { type ReadyRun, readyRun } from './ready'
import { ColumnError } from '../../core/statement/columns'
import { FormulaError } from '../../core/formula/syntax'
import { NarrowingError } from '../../core/parameter/narrowing'
import { PatternError } from '../../core/value/numberFormat'
import { PictureError } from '../../core/compose/svgShapes'
import { DefinitionError, parseDefinition, readDefinition } from '../../core/definition/schema'
import { RowsError } from '../../core/read/pinned'
import { PlanError } from '../../core/sql/query'
import { SqlTextError } from '../../core/sql/authored'
import { TieOutError } from '../../core/tieout/check'
import { keptFetch, plainFetch, type ReadingPorts, type Readings, remoteReading, SourceSaid } from './remote'
import { KeptRows, rowsFile } from './keptRows'
import { goOn, listen, Stopped } from './stop'
import { withDescribedTexts } from './texts'
import { PageSpool } from './spool'
import type { TieOutResult } from '../../core/definition/tieOuts'
import { tieOutResults } from './tieOuts'
import { changesOf, differingPages } from './changes'
import type { CatalogAsked, CatalogReply, RunProgress, RunResult, RunTask, SentInput, TaskFailure } from './tasks'
import { addAll, csvwTo, parquetTo, rowsTo, workbookTo, writeAll } from './write'
import { preview } from './preview'
import { pinnedFile, pinRows } from './pinned'
import { planQuestion } from './questions'
import { lettersOf } from './letters'
import { documentsOfPages, pdfOfPages } from './documents'
import { packBook } from './packBook'
import { packPdf, packZip } from './packFiles'

/** Catalogs that this thread has seen, by their versions. */
const catalogs = new LRUCache<string, Catalog>({ max: 8 })

/** What a run needs to know, with the catalogs of its versions: kept here, or asked for. */
async function whole(input: SentInput, ports: ReadingPorts): Promise<RunInput> {
  const { nested, ...rest } = input
  const catalog = await catalogOf(input.catalogVersion, ports)
  if (!nested) return { ...rest, catalog }
  const inside: Record<string, RunInput> = {}
  for (const [block, each] of Object.entries(nested)) inside[block] = await whole(each, ports)
  return { ...rest, catalog, nested: inside }
}

async function catalogOf(version: string, { asks }: ReadingPorts): Promise<Catalog> {
  const known = catalogs.get(version)
  if (known) return known
  const catalog = await new Promise<Catalog>(resolve => {
    const answered = (reply: CatalogReply | { kind: string }) => {
      if (reply.kind !== 'catalog' || (reply as CatalogReply).version !== version) return
      asks.off('message', answered)
      resolve((reply as CatalogReply).catalog)
    }
    asks.on('message', answered)
    asks.postMessage({ kind: 'catalog', version } satisfies CatalogAsked)
  })
  catalogs.set(version, catalog)
  return catalog
}

export default async function work({ signs, ...task }: RunTask & { signs?: Int32Array }): Promise<unknown> {
  listen(signs)
  try {
    goOn()
    return await withFiles(() => done(task as RunTask))
  } catch (error) {
    if (error instanceof RunError) return { failed: error.sentences } satisfies TaskFailure
    return { failed: [machineSentence(error) ?? saidBy(error)] } satisfies TaskFailure
  } finally {
    if ('ports' in task) for (const port of [task.ports.asks, ...Object.values(task.ports.others)]) port.close()
  }
}

/** Faults whose messages are sentences for whoever asked. */
const told = [
  DefinitionError,
  RowsError,
  PlanError,
  SqlTextError,
  FormulaError,
  ColumnError,
  PictureError,
  NarrowingError,
  PatternError,
  TieOutError,
  Stopped,
  SourceSaid,
]

/** The sentence of a fault; one of ours is written down for whoever looks after the program. */
function saidBy(error: unknown): string {
  if (told.some(kind => error instanceof kind)) return (error as Error).message
  console.error(error)
  return 'The report could not be worked out, by a fault of the program; tell whoever looks after it.'
}

async function done(task: RunTask): Promise<unknown> {
  switch (task.kind) {
    case 'warm':
      return true
    case 'definition':
      return readDefinition(task.value)
    case 'definitionText':
      return parseDefinition(task.text)
    case 'changes':
      return changesOf(task)
    case 'differingPages':
      return differingPages(task.before, task.now)
    case 'pdf':
      return pdfOfPages(task.title, task.kept, task.file)
    case 'documents':
      return documentsOfPages(task.title, task.kept, task.file)
    case 'packPdf':
      return packPdf(task.title, task.parts, task, task.file)
    case 'packZip':
      return packZip(task.parts, task.file)
  }
  if (task.kind === 'packBook') {
    const { nested } = await whole(task.input, task.ports)
    const inputs = task.parts.map((_, at) => nested![String(at)]!)
    return packBook(task.title, task.parts, inputs, task.facts, task.file)
  }
  if (task.kind === 'plan' || task.kind === 'pin' || task.kind === 'pinnedFile') {
    const input = await whole(task.input, task.ports)
    if (task.kind === 'plan') return planQuestion(input, task.question)
    return task.kind === 'pin' ? pinRows(input, task.file, task.held) : pinnedFile(input, task.rows, task.format, task.level)
  }
  const own = remoteReading(task.ports.asks)
  const others = Object.fromEntries(Object.entries(task.ports.others).map(([source, port]) => [source, remoteReading(port)]))
  const reading: Readings = { own, others }
  let changes: string[] = []
  try {
    const asked = await whole(task.input, task.ports)
    const described = 'kept' in task && task.kept ? { input: asked, changes } : await withDescribedTexts(asked, text => own.describe(text))
    const { input } = described
    changes = described.changes
    switch (task.kind) {
      case 'run':
        return await run({ ...input, ...(changes.length ? { changes } : {}) }, task, reading, news => task.ports.asks.postMessage(news))
      case 'preview':
        return await preview(input, task.limit, plainFetch(reading), changes)
      case 'firstPage':
        return await firstPage(input, plainFetch(reading))
      case 'tieOuts':
        return await tieOutResults(readyRun(input, true), plainFetch(reading))
      case 'trace':
        return await tracedIn(readyRun(input, true), task, reading)
      case 'letters': {
        const rows = await KeptRows.open(task.kept)
        try {
          const told = (pages: number) =>
            task.ports.asks.postMessage({ kind: 'progress', places: [], outline: [], read: pages } satisfies RunProgress)
          return await lettersOf(readyRun({ ...input, keeps: true }), keptFetch(undefined, rows), task.pages, task.folder, told)
        } finally {
          await rows.close()
        }
      }
      case 'behind': {
        const rows = await KeptRows.open(task.kept)
        try {
          const fetch = keptFetch(undefined, rows)
          return await behindOnPage(await withTies(readyRun({ ...input, keeps: true }), fetch), task.wanted, fetch, task.pages)
        } finally {
          await rows.close()
        }
      }
    }
  } catch (error) {
    // what has changed may be why
    if (changes.length && error instanceof RunError) throw new RunError([...changes, ...error.sentences])
    throw error
  } finally {
    for (const each of [own, ...Object.values(others)]) each.close()
  }
}

/** A trace of a figure as it is now, or as it is on the pages of a run that is kept. */
async function tracedIn(ready: ReadyRun, { wanted, kept }: RunTask & { kind: 'trace' }, reading: Readings) {
  if (!kept) return statementTrace(ready, wanted, plainFetch(reading))
  const rows = await KeptRows.open(kept)
  try {
    return await statementTrace({ ...ready, keeps: true }, wanted, plainFetch(reading), keptFetch(undefined, rows))
  } finally {
    await rows.close()
  }
}

type RunAsked = Pick<RunTask & { kind: 'run' }, 'output' | 'kept'>

/**
 * A run with its rows: a run that keeps pages keeps them for later, one whose pages are counted first for as long as it lasts, and what is
 * made of a run that is kept reads nothing else.
 */
async function run(
  input: RunInput,
  { output, kept }: RunAsked,
  reading: Readings,
  tellNews: (news: RunProgress) => void,
): Promise<RunResult> {
  if (kept) {
    const rows = await KeptRows.open(kept)
    try {
      return await made({ ...input, keeps: true }, output, keptFetch(undefined, rows), tellNews)
    } finally {
      await rows.close()
    }
  }
  const pages = output.format === 'pages'
  const { layout } = readyRun(input).report
  if (!pages && (!layout.needsPageCount || layout.needsAll || !countsPages.has(output.format)))
    return made(input, output, plainFetch(reading), tellNews)
  const file = rowsFile(output.file)
  const rows = await KeptRows.create(file)
  try {
    const result = await made({ ...input, ...(pages ? { keeps: true } : {}) }, output, keptFetch(reading, rows), tellNews)
    if (result.kept) result.kept.rows = rows.places
    return result
  } finally {
    await rows.close()
    if (!pages) await rm(file, { force: true })
  }
}
const countsPages = new Set<RunOutput['format']>(['pdf', 'svg', ...invoiceSyntaxes])

async function made(input: RunInput, output: RunOutput, fetch: Fetch, tellNews: (news: RunProgress) => void): Promise<RunResult> {
  const meter = new RunMeter()
  const ready = await withTies(readyRun(input), fetch)
  let pages = 0
  let kept: RunResult['kept']
  let tieOuts: TieOutResult[] = []
  const written = async (work: () => unknown) => {
    const start = performance.now()
    await work()
    meter.ms.write += performance.now() - start
  }
  if (output.format === 'json' || output.format === 'csv' || output.format === 'xml') {
    await rowsTo(ready, output, meter, fetch, written)
  } else if (output.format === 'parquet') {
    await parquetTo(ready, output, meter, fetch, written)
  } else if (output.format === 'csvw') {
    await csvwTo(ready, output, meter, fetch, written)
  } else if (output.format === 'xlsx') {
    await workbookTo(ready, output, meter, fetch, written)
  } else if (output.format === 'html') {
    const out = outFile(output.file)
    const { columns, events } = await runGrid(ready, fetch, meter, false, true)
    const html = new HtmlWriter(out, input.name, ready.definition.language, columns)
    for await (const some of events) await written(() => addAll(html, some))
    await written(async () => {
      await html.end()
      out.end()
      await finished(out)
    })
  } else if (output.format === 'pages') {
    kept = await keptPages(ready, output.file, fetch, meter, written, tellNews)
    pages = kept.places.length - 1
    // pages are never hidden by what they are held against
    tieOuts = ready.tieOuts ?? (await tieOutsOf(ready, fetch))
  } else if (isInvoiceSyntax(output.format)) {
    pages = await invoicesTo(ready, { format: output.format, file: output.file }, meter, fetch)
  } else if (output.format === 'pain') {
    pages = await paymentsTo(ready, output, meter, fetch)
  } else if (output.format === 'svg') {
    let found: Page | undefined
    for await (const page of runPages(ready, fetch, meter)) if (++pages === output.page) found = page
    if (!found)
      throw new RunError([
        pages ? `There is no page ${output.page}; the run has ${pages}.` : emptySentence(ready.definition, ready.parameters),
      ])
    await written(() => writeAll(output.file, pageSvg(found)))
  } else {
    const out = outFile(output.file)
    let pdf: PdfWriter | undefined
    for await (const page of runPages(ready, fetch, meter)) {
      pages++
      await written(async () => {
        pdf ??= new PdfWriter(out, input.name, keptBy(page))
        pdf.add(page)
        await room(out)
      })
    }
    if (!pages) throw new RunError([emptySentence(ready.definition, ready.parameters)])
    await written(async () => {
      pdf!.end()
      await finished(out)
    })
  }
  const ms = Object.fromEntries(Object.entries(meter.ms).map(([stage, value]) => [stage, Math.round(value)])) as RunResult['ms']
  return {
    pages,
    rows: meter.rows,
    ms,
    ...(kept ? { kept } : {}),
    ...(tieOuts.length ? { tieOuts } : {}),
    ...(input.changes ? { changed: { definition: input.definition, sentences: input.changes } } : {}),
  }
}

/** The pages of a run, kept in a file; whoever waits hears how far they are. */
async function keptPages(
  ready: ReadyRun,
  file: string,
  fetch: Fetch,
  meter: RunMeter,
  written: (work: () => unknown) => Promise<void>,
  tellNews: (news: RunProgress) => void,
): Promise<NonNullable<RunResult['kept']>> {
  const spool = await PageSpool.create(file)
  try {
    const news: RunProgress = { kind: 'progress', places: [], outline: [] }
    let told = 0
    let pages = 0
    const first = ready.report.tree.levels[0]?.name ?? ''
    let last = 0
    const tell = async () => {
      last = performance.now()
      await spool.flush()
      tellNews({ ...news, places: spool.places.slice(told), read: meter.rows[first] ?? 0 })
      told = spool.places.length
      news.outline = []
    }
    // while it only reads there are no pages to tell of
    meter.heard = async () => {
      if (pages === 0 && performance.now() - last > 200) await tell()
    }
    const early = await earlyPage(ready, fetch)
    if (early) tellNews({ kind: 'progress', places: [], outline: [], early: JSON.stringify(early) })
    const outline: RunProgress['outline'] = []
    for await (const page of runPages(ready, fetch, meter, true)) {
      if (page.label !== undefined) {
        news.outline.push({ page: pages, label: page.label })
        outline.push({ page: pages, label: page.label })
      }
      await written(() => spool.add(page))
      pages++
      // the first pages at once, later ones in larger parts
      if (pages === 1 || pages === 3 || performance.now() - last > 200) {
        await written(tell)
      }
    }
    await written(() => spool.flush())
    return { places: [...spool.places], outline, rows: {} }
  } finally {
    await spool.close()
  }
}

/** A run whose tie-outs stand on its pages, with what they come to: they come before the pages. */
async function withTies(run: ReadyRun, fetch: Fetch): Promise<ReadyRun> {
  return run.report.layout.blocks.some(block => block.printsTies) ? { ...run, tieOuts: await tieOutsOf(run, fetch) } : run
}

/** A tie-out that cannot be worked out does not stop a run; it says why. */
function tieOutsOf(ready: ReadyRun, fetch: Fetch): Promise<TieOutResult[]> {
  return tieOutResults(ready, fetch).catch((error: Error) =>
    (ready.definition.tieOuts ?? []).map(({ id, name }) => ({ id, name, holds: false, sentence: error.message })),
  )
}

async function firstPage(input: RunInput, fetch: Fetch): Promise<Page | null> {
  for await (const page of runPages(readyRun(input), fetch, new RunMeter())) return page
  return null
}
