import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { finished } from 'node:stream/promises'
import { Values } from '../../core/compose/values'
import { GridMaker } from '../../core/compose/grid'
import type { GridColumns, GridEvent } from '../../core/compose/gridRows'
import { letterAt, type LetterTo } from '../../core/compose/letter'
import type { Page } from '../../core/compose/page'
import { mailAddresses } from '../../core/pack/mailAddress'
import { cleanFileName } from '../../core/parameter/fileName'
import { type Fetch, readRecords } from '../../core/read/read'
import { chunksOf, composerOf, planRun } from './execute'
import { HtmlWriter } from './formats/html'
import { keptBy, PdfWriter } from './formats/pdf'
import { RunError } from './input'
import { outFile, put, room } from './outFile'
import type { ReadyRun } from './ready'
import { type KeptPages, readPages } from './spool'
import { goOn } from './stop'
import { addAll } from './write'

/** A letter that was made, as a line of the list: whom it is to, what it says, and the file that it brings. */
export interface MadeLetter extends Omit<LetterTo, 'address'> {
  to: string[]
  /** what stood where an address was looked for, where that is none */
  wrong?: string
  /** name of its file within the folder; `name` is what it is called where it arrives */
  file: string
  /** name of the file with its pages as HTML, where they stand in the letter itself */
  html?: string
  pages: number
}

export interface LettersMade {
  letters: number
  /** letters without an address, all on paper in one file */
  rest: number
}

/** Files of a folder of letters: the list, a line of JSON for each, and the pages of those without an address. */
export const letterList = 'letters.jsonl'
export const restFile = 'rest.pdf'

/**
 * A letter to each root record of a kept run that has pages, in the order of these: its pages as a PDF of its own, and its texts worked out
 * from the rows that the run has kept. Memory holds one chunk of records and one document.
 * `told` hears now and then how many pages are in letters. @throws RunError where its pages do not stand by records
 */
export async function lettersOf(
  run: ReadyRun,
  fetch: Fetch,
  kept: KeptPages,
  folder: string,
  told: (pages: number) => void = () => {},
): Promise<LettersMade> {
  const { letter, language } = run.report.layout
  if (!letter) throw new RunError(['No letter is said for this report.'])
  await mkdir(folder, { recursive: true })
  const list = outFile(join(folder, letterList))
  const { calendar } = run.catalog
  const values = new Values(language, {
    levels: run.report.tree.levels,
    parameters: run.parameters,
    today: run.today,
    ...(calendar ? { calendar } : {}),
  })
  const maker = letter.pages ? new GridMaker(composerOf(run), true) : undefined
  const documents = documentsOf(kept)
  let next = await documents.next()
  let rest: { pdf: PdfWriter; out: ReturnType<typeof outFile> } | undefined
  const made: LettersMade = { letters: 0, rest: 0 }
  let before = 0
  let done = 0
  let last = 0
  for await (const { records, total } of readRecords(planRun(run, 'pages'), fetch, chunksOf(run, 'pages'))) {
    const count = records.levels[0]!.count
    if (total) values.use(records)
    if (maker && total && !before && run.report.layout.blocks.some(block => block.columnsByRecords)) maker.begin(records)
    const sheets = maker && total ? sheetsOf(maker.rows(records, 'documents')) : undefined
    let sheet = sheets?.next()
    for (; !next.done && next.value.record < before + count; next = await documents.next()) {
      goOn()
      const { record, pages } = next.value
      const row = record - before
      const { address, ...texts } = letterAt(letter, values, language, { level: 0, from: row, to: row + 1 })
      const { to, wrong } = mailAddresses(address)
      const own = String(made.letters + 1).padStart(6, '0')
      const file = `${own}.pdf`
      await written(join(folder, file), texts.name || run.name, pages)
      while (sheet && !sheet.done && sheet.value.row < row) sheet = sheets!.next()
      const html = sheet && !sheet.done && sheet.value.row === row && to.length ? `${own}.html` : undefined
      if (html) await htmlWritten(join(folder, html), texts.subject, texts.language, maker!.columns, (sheet!.value as Sheet).events)
      const line: MadeLetter = {
        ...texts,
        name: cleanFileName(texts.name || run.name),
        // an address that is wrong is no reason to send to the others only
        to: wrong.length ? [] : to,
        ...(wrong.length ? { wrong: wrong.join(', ') } : {}),
        file,
        ...(html ? { html } : {}),
        pages: pages.length,
      }
      await put(list, `${JSON.stringify(line)}\n`)
      made.letters++
      done += pages.length
      if (performance.now() - last > 250) {
        last = performance.now()
        told(done)
      }
      if (line.to.length) continue
      if (!rest) {
        const out = outFile(join(folder, restFile))
        rest = { out, pdf: new PdfWriter(out, run.name, keptBy(pages[0]!)) }
      }
      for (const page of pages) rest.pdf.add(page)
      await room(rest.out)
      made.rest++
    }
    before += count
  }
  list.end()
  await finished(list)
  if (rest) {
    rest.pdf.end()
    await finished(rest.out)
  }
  return made
}

async function written(path: string, title: string, pages: readonly Page[]): Promise<void> {
  const out = outFile(path)
  const pdf = new PdfWriter(out, title, keptBy(pages[0]!))
  for (const page of pages) {
    pdf.add(page)
    await room(out)
  }
  pdf.end()
  await finished(out)
}

interface Sheet {
  row: number
  events: GridEvent[]
}

/** Rows of a layout, document by document, each with the row of its record. */
function* sheetsOf(events: Iterable<GridEvent>): Generator<Sheet, undefined> {
  let open: Sheet | undefined
  for (const event of events)
    if ('document' in event) {
      if (open) yield open
      open = { row: event.at, events: [] }
    } else open?.events.push(event)
  if (open) yield open
  return undefined
}

async function htmlWritten(
  path: string,
  title: string,
  language: string,
  columns: GridColumns,
  events: readonly GridEvent[],
): Promise<void> {
  const out = outFile(path)
  const html = new HtmlWriter(out, title, language, columns)
  await addAll(html, events)
  await html.end()
  out.end()
  await finished(out)
}

/** Pages that belong to one record, record by record; pages that stand on none are passed over. */
async function* documentsOf({ pages: file, places }: KeptPages): AsyncGenerator<{ record: number; pages: Page[] }> {
  let open: { record: number; pages: Page[] } | undefined
  const count = places.length - 1
  for (let from = 0; from < count; from += 50)
    for (const text of await readPages(file, places, from, Math.min(from + 50, count))) {
      const page = JSON.parse(text) as Page
      if (page.record < 0) continue
      if (open && open.record !== page.record) {
        yield open
        open = undefined
      }
      open ??= { record: page.record, pages: [] }
      open.pages.push(page)
    }
  if (open) yield open
}
