import { LRUCache } from 'lru-cache'
import type { Catalog } from '../../core/books/catalog'
import type { RunOutput } from './output'
import { statementTrace } from './statementTrace'
import { createWriteStream } from 'node:fs'
import { finished } from 'node:stream/promises'
import type { Page } from '../../core/compose/page'
import type { Fetch } from '../../core/read/read'
import { emptySentence } from '../../core/parameter/sentences'
import { pageSvg } from '../../core/draw/svg'
import { PdfWriter } from './formats/pdf'
import { HtmlWriter } from './formats/html'
import { earlyPage, runGrid, runPages } from './execute'
import { RunMeter } from './meter'
import { type ReadyRun, readyRun, RunError, type RunInput } from './input'
import { type ReadingPorts, remoteFetch } from './remote'
import { PageSpool } from './spool'
import type { TieOutResult } from '../../core/definition/tieOuts'
import { tieOutResults } from './tieOuts'
import { changesOf } from './changes'
import type { CatalogReply, RunProgress, RunResult, RunTask, SentInput, TaskFailure } from './tasks'
import { addAll, rowsTo, workbookTo, writeAll } from './write'
import { preview } from './preview'
import { documentsOfPages, pdfOfPages } from './documents'

/** Catalogs that this thread has seen, by their versions. */
const catalogs = new LRUCache<string, Catalog>({ max: 8 })

/** What a run needs to know, with the catalog of its version: kept here, or asked for. */
async function whole(input: SentInput, { asks }: ReadingPorts): Promise<RunInput> {
  let catalog = catalogs.get(input.catalogVersion)
  if (!catalog) {
    catalog = await new Promise<Catalog>(resolve => {
      const answered = (reply: CatalogReply | { kind: string }) => {
        if (reply.kind !== 'catalog') return
        asks.off('message', answered)
        resolve((reply as CatalogReply).catalog)
      }
      asks.on('message', answered)
      asks.postMessage({ kind: 'catalog' })
    })
    catalogs.set(input.catalogVersion, catalog)
  }
  return { ...input, catalog }
}

export default async function work(task: RunTask): Promise<unknown> {
  try {
    return await done(task)
  } catch (error) {
    if (error instanceof RunError) return { failed: error.sentences } satisfies TaskFailure
    return { failed: [error instanceof Error ? error.message : String(error)] } satisfies TaskFailure
  } finally {
    if ('ports' in task) for (const port of [task.ports.asks, task.ports.rows]) port.close()
  }
}

async function done(task: RunTask): Promise<unknown> {
  switch (task.kind) {
    case 'warm':
      return true
    case 'changes':
      return changesOf(task)
    case 'pdf':
      return pdfOfPages(task.title, task.kept, task.file)
    case 'documents':
      return documentsOfPages(task.title, task.kept, task.file)
  }
  const input = await whole(task.input, task.ports)
  const fetch = remoteFetch(task.ports)
  switch (task.kind) {
    case 'run':
      return run(input, task.output, fetch, news => task.ports.asks.postMessage(news))
    case 'preview':
      return preview(input, task.limit, fetch)
    case 'firstPage':
      return firstPage(input, fetch)
    case 'tieOuts':
      return tieOutResults(readyRun(input, true), fetch)
    case 'trace':
      return statementTrace(readyRun(input, true), task.wanted, fetch)
  }
}

async function run(input: RunInput, output: RunOutput, fetch: Fetch, tellNews: (news: RunProgress) => void): Promise<RunResult> {
  const meter = new RunMeter()
  const plain = readyRun(input)
  // tie-outs that stand on the pages come before them
  const printed = plain.report.layout.blocks.some(block => block.printsTies)
  const ready = printed ? { ...plain, tieOuts: await tieOutsOf(plain, fetch) } : plain
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
  } else if (output.format === 'xlsx') {
    await workbookTo(ready, output, meter, fetch, written)
  } else if (output.format === 'html') {
    const out = createWriteStream(output.file)
    const { columns, events } = await runGrid(ready, fetch, meter, false, true)
    const html = new HtmlWriter(out, input.name, ready.definition.language, columns)
    for await (const some of events) await written(() => addAll(html, some))
    await written(async () => {
      await html.end()
      out.end()
      await finished(out)
    })
  } else if (output.format === 'pages') {
    const spool = await PageSpool.create(output.file)
    const news: RunProgress = { kind: 'progress', places: [], outline: [] }
    let told = 0
    const tell = async () => {
      await spool.flush()
      tellNews({ ...news, places: spool.places.slice(told) })
      told = spool.places.length
      news.outline = []
    }
    const early = await earlyPage(ready, fetch)
    if (early) tellNews({ kind: 'progress', places: [], outline: [], early: JSON.stringify(early) })
    const outline: RunProgress['outline'] = []
    let last = 0
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
        last = performance.now()
      }
    }
    await written(() => spool.close())
    kept = { places: [...spool.places], outline }
    // pages are never hidden by what they are held against
    tieOuts = ready.tieOuts ?? (await tieOutsOf(ready, fetch))
  } else if (output.format === 'svg') {
    let found: Page | undefined
    for await (const page of runPages(ready, fetch, meter)) if (++pages === output.page) found = page
    if (!found)
      throw new RunError([
        pages ? `There is no page ${output.page}; the run has ${pages}.` : emptySentence(ready.definition, ready.parameters),
      ])
    await written(() => writeAll(output.file, pageSvg(found)))
  } else {
    const out = createWriteStream(output.file)
    const pdf = new PdfWriter(out, input.name)
    for await (const page of runPages(ready, fetch, meter)) {
      pages++
      await written(async () => {
        pdf.add(page)
        if (out.writableNeedDrain) await new Promise<void>(resolve => out.once('drain', () => resolve()))
      })
    }
    if (!pages) throw new RunError([emptySentence(ready.definition, ready.parameters)])
    await written(async () => {
      pdf.end()
      await finished(out)
    })
  }
  const ms = Object.fromEntries(Object.entries(meter.ms).map(([stage, value]) => [stage, Math.round(value)])) as RunResult['ms']
  return { pages, rows: meter.rows, ms, ...(kept ? { kept } : {}), ...(tieOuts.length ? { tieOuts } : {}) }
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
