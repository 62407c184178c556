import type { GridEvent } from '../../core/compose/gridRows'
import { createWriteStream } from 'node:fs'
import { PassThrough } from 'node:stream'
import { finished } from 'node:stream/promises'
import { Zip, ZipPassThrough } from 'fflate'
import type { MessagePort } from 'node:worker_threads'
import type { Page } from '../../core/compose/page'
import { gridDepth } from '../../core/compose/grid'
import type { LevelInfo } from '../../core/formula/typed'
import type { Fetch } from '../../core/read/read'
import { answerWords } from '../../core/parameter/answers'
import { dateFormat } from '../../core/value/dateFormat'
import { cleanFileName } from '../../core/parameter/fileName'
import { emptySentence } from '../../core/parameter/sentences'
import { findTable } from '../../core/catalog/types'
import { packLevel } from '../../core/read/pinned'
import { pageSvg } from '../../core/draw/svg'
import { PdfWriter } from '../writers/pdf'
import { HtmlWriter } from '../writers/html'
import { type CsvOptions, CsvRows, JsonLevel, JsonRows } from '../writers/rows'
import { type SheetsBy, XlsxWriter } from '../writers/xlsx'
import { XmlRows } from '../writers/xml'
import { planRun, type ReadyRun, readyRun, rootsPerChunk, RunError, runGrid, type RunInput, RunMeter, runPages } from './execute'
import { remoteFetch } from './remote'
import { type KeptPages, PageSpool, readPages } from './spool'
import type { TieOutResult } from '../../core/definition/tieOuts'
import { tieOutResults } from './tieOuts'
import { changesOf } from './changes'

/** What is to become of a run. */
export type RunOutput =
  | { format: 'pdf' | 'pages'; file: string }
  | { format: 'json'; file: string; level?: string }
  | ({ format: 'csv'; file: string; level: string } & CsvOptions)
  | { format: 'xml' | 'html'; file: string }
  | { format: 'xlsx'; file: string; sheets?: SheetsBy; /** a sheet of plain rows of this level too */ rows?: string }
  | { format: 'svg'; file: string; page: number }

export type RunTask =
  | { kind: 'run'; input: RunInput; output: RunOutput; port: MessagePort }
  | { kind: 'preview'; input: RunInput; limit: number; port: MessagePort }
  | { kind: 'firstPage' | 'tieOuts'; input: RunInput; port: MessagePort }
  | { kind: 'changes'; input: RunInput; before: KeptPages; now: KeptPages }
  | { kind: 'pdf' | 'documents'; title: string; pages: string; places: number[]; file: string }

/** `kept` is where all pages and documents begin, for a run that keeps its pages: news on the way may come late or not at all. */
export interface RunResult {
  kept?: { places: number[]; outline: RunProgress['outline'] }
  pages: number
  rows: Record<string, number>
  ms: { fetch: number; shape: number; compose: number; write: number }
  /** what the report's tie-outs came to */ tieOuts?: TieOutResult[]
}

/** News of a run that keeps its pages: how far it is, and the names of the records that begin on new pages. */
export interface RunProgress {
  kind: 'progress'
  places: number[]
  outline: { page: number; label: string }[]
}

/** A failure as it crosses threads. */
export type TaskFailure = { failed: string[] }

export default async function work(task: RunTask): Promise<unknown> {
  try {
    switch (task.kind) {
      case 'run':
        return await run(task)
      case 'preview':
        return await preview(task)
      case 'firstPage':
        return await firstPage(task)
      case 'tieOuts':
        return await tieOutResults(readyRun(task.input, true), remoteFetch(task.port))
      case 'changes':
        return await changesOf(task)
      case 'pdf':
        return await pdfOfPages(task)
      case 'documents':
        return await documentsOfPages(task)
    }
  } catch (error) {
    if (error instanceof RunError) return { failed: error.sentences } satisfies TaskFailure
    return { failed: [error instanceof Error ? error.message : String(error)] } satisfies TaskFailure
  }
}

async function run(task: RunTask & { kind: 'run' }): Promise<RunResult> {
  const { output, port } = task
  const meter = new RunMeter()
  const fetch = remoteFetch(port)
  const plain = readyRun(task.input)
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
    const html = new HtmlWriter(out, task.input.name, ready.definition.language, columns)
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
      port.postMessage({ ...news, places: spool.places.slice(told) })
      told = spool.places.length
      news.outline = []
    }
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
      if (pages === 3 || performance.now() - last > 200) {
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
    const pdf = new PdfWriter(out, task.input.name)
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

async function writeAll(file: string, text: string): Promise<void> {
  const out = createWriteStream(file)
  out.end(text)
  await finished(out)
}

async function addAll(writer: { add: (event: GridEvent) => Promise<void> | undefined }, events: readonly GridEvent[]): Promise<void> {
  for (const event of events) {
    const room = writer.add(event)
    if (room) await room
  }
}

/** The level that is asked for by its name. @throws RunError */
function levelNamed(ready: ReadyRun, name: string): LevelInfo {
  const { levels } = ready.report.tree
  const level = levels.find(each => each.name === name)
  if (!level) throw new RunError([`There is no level “${name}”; there are ${levels.map(each => each.name).join(', ')}.`])
  return level
}

type Written = (work: () => unknown) => Promise<void>

async function rowsTo(
  ready: ReadyRun,
  output: Exclude<RunOutput, { format: 'pdf' | 'pages' | 'svg' | 'html' | 'xlsx' }> | { format: 'xml' | 'html'; file: string },
  meter: RunMeter,
  fetch: Fetch,
  written: Written,
): Promise<void> {
  const { levels } = ready.report.tree
  const level = 'level' in output && output.level !== undefined ? levelNamed(ready, output.level) : undefined
  const out = createWriteStream(output.file)
  const writer =
    output.format === 'csv'
      ? new CsvRows(out, level!, output)
      : output.format === 'xml'
        ? new XmlRows(out, levels, ready.name)
        : level
          ? new JsonLevel(out, level)
          : new JsonRows(out, levels)
  for await (const chunk of meter.chunks(ready, planRun(ready, true), fetch, { chunk: rootsPerChunk }))
    await written(() => writer.add(chunk.records))
  await written(async () => {
    await writer.end()
    out.end()
    await finished(out)
  })
}

/** A workbook of the layout's rows, as asked with the plain rows of a level, and with what was asked and answered. */
async function workbookTo(
  ready: ReadyRun,
  output: RunOutput & { format: 'xlsx' },
  meter: RunMeter,
  fetch: Fetch,
  written: Written,
): Promise<void> {
  const { definition, report, parameters } = ready
  const rows = output.rows === undefined ? undefined : levelNamed(ready, output.rows)
  const out = createWriteStream(output.file)
  const sheets = output.sheets ?? 'one'
  const { columns, events } = await runGrid(ready, fetch, meter, sheets === 'documents')
  const dated = dateFormat('d MMM y', definition.language)
  const time = new Intl.DateTimeFormat(definition.language, { dateStyle: 'long', timeStyle: 'short' }).format(ready.moment ?? Date.now())
  const book = new XlsxWriter(out, {
    title: ready.name,
    sheets,
    columns,
    depth: gridDepth(report.layout.blocks),
    page: report.layoutDefinition.page,
    facts: [
      ['Report', ready.name],
      ['Layout', report.layoutDefinition.name],
      ['Source', report.dataSet.source],
      ['Run at', time],
      ['Source’s clock', dated(ready.today)],
      ...definition.parameters
        .filter(parameter => !parameter.hidden)
        .map(parameter => [parameter.label, answerWords(parameter, parameters)] as const),
    ],
  })
  for await (const some of events) await written(() => addAll(book, some))
  if (rows) {
    const plan = planRun(ready, true)
    await book.rows(
      rows,
      (async function* () {
        for await (const chunk of new RunMeter().chunks(ready, plan, fetch, { chunk: rootsPerChunk })) yield chunk.records
      })(),
    )
  }
  await written(async () => {
    await book.end()
    if (!out.writableFinished) await finished(out)
  })
}

/** Rows of the books that a preview takes in. */
const mostFigures = 200_000

/** The first records of a report, as the Data and Page stages show them, as JSON bytes. */
async function preview(task: RunTask & { kind: 'preview' }): Promise<Uint8Array> {
  const ready = readyRun(task.input, true)
  const meter = new RunMeter()
  // figures of the books are added up by the source: they are few, and a statement wants them all (rule 23)
  const whole = ready.report.model.tables.get(ready.report.tree.levels[0]!.definition.table)?.kind === 'ledger'
  const limit = whole ? mostFigures : task.limit
  const plan = planRun(ready, true, whole ? undefined : limit)
  for await (const chunk of meter.chunks(ready, plan, remoteFetch(task.port), { chunk: limit })) {
    const levels = chunk.records.levels.map(packLevel)
    const sql = plan.levels.map(
      level =>
        plan.records(
          level.index,
          plan.link(level.index).own.map(() => ['…']),
        ).text,
    )
    const text = JSON.stringify({
      levels,
      ...counted(ready, chunk.total, limit),
      labels: task.input.labels,
      sql: [plan.keys.text, ...sql],
      ms: Math.round(meter.ms.fetch + meter.ms.shape),
      empty: chunk.total ? undefined : emptySentence(ready.definition, ready.parameters),
    })
    return new TextEncoder().encode(text)
  }
  throw new Error('Reading gave nothing.')
}

/** How many roots there are: known where all came, else about as many as the table has, as far as no filter takes some away. */
function counted(ready: ReadyRun, read: number, limit: number): { total?: number; about?: number } {
  if (read < limit) return { total: read }
  const { definition } = ready.report.tree.levels[0]!
  const estimate = findTable(ready.catalog, definition.table)?.rowEstimate
  return !definition.filters.length && estimate && estimate > read ? { about: estimate } : {}
}

async function firstPage(task: RunTask & { kind: 'firstPage' | 'tieOuts' }): Promise<Page | null> {
  for await (const page of runPages(readyRun(task.input), remoteFetch(task.port), new RunMeter())) return page
  return null
}

/** The PDF of pages that a run has kept: the same pages that were on screen. */
async function pdfOfPages(task: RunTask & { kind: 'pdf' | 'documents' }): Promise<{ pages: number }> {
  const out = createWriteStream(task.file)
  const pdf = new PdfWriter(out, task.title)
  const count = task.places.length - 1
  for (let from = 0; from < count; from += 50) {
    for (const text of await readPages(task.pages, task.places, from, Math.min(from + 50, count))) {
      pdf.add(JSON.parse(text) as Page)
      if (out.writableNeedDrain) await new Promise<void>(resolve => out.once('drain', () => resolve()))
    }
  }
  pdf.end()
  await finished(out)
  return { pages: count }
}

/** Each document (from a page with a document's name up to the next) as a PDF of its own; names are cleaned and made unique. */
async function documentsOfPages(task: RunTask & { kind: 'pdf' | 'documents' }): Promise<{ documents: number }> {
  const out = createWriteStream(task.file)
  const zip = new Zip((error, bytes, last) => {
    if (error) out.destroy(error)
    else {
      out.write(bytes)
      if (last) out.end()
    }
  })
  const taken = new Set<string>()
  let open: { name: string; pdf: PdfWriter; parts: Buffer[]; done: Promise<void> } | undefined
  let documents = 0
  const close = async () => {
    if (!open) return
    open.pdf.end()
    await open.done
    const entry = new ZipPassThrough(`${open.name}.pdf`)
    zip.add(entry)
    entry.push(Buffer.concat(open.parts), true)
    documents++
    open = undefined
    if (out.writableNeedDrain) await new Promise<void>(resolve => out.once('drain', () => resolve()))
  }
  const count = task.places.length - 1
  for (let from = 0; from < count; from += 50) {
    for (const text of await readPages(task.pages, task.places, from, Math.min(from + 50, count))) {
      const page = JSON.parse(text) as Page
      if (page.document !== undefined || !open) {
        await close()
        const plain = cleanFileName(page.document ?? task.title)
        let name = plain
        for (let again = 2; taken.has(name.toLowerCase()); again++) name = `${plain} ${again}`
        taken.add(name.toLowerCase())
        const through = new PassThrough()
        const parts: Buffer[] = []
        through.on('data', (part: Buffer) => parts.push(part))
        open = { name, pdf: new PdfWriter(through, name), parts, done: finished(through) }
      }
      open.pdf.add(page)
    }
  }
  await close()
  zip.end()
  await finished(out)
  return { documents }
}
