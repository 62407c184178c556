import { packEnvelope } from '../../core/value/envelope'
import type { PGlite } from '@electric-sql/pglite'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../core/books/catalog'
import { assembleReport, usedFields } from '../../core/compose/assemble'
import { Composer } from '../../core/compose/flow'
import { isCellTag } from '../../core/compose/tags'
import type { Page } from '../../core/compose/page'
import { planDataSet } from '../../core/sql/plan'
import { readRecords } from '../../core/read/read'
import type { DataRecords } from '../../core/value/records'
import { setColumnWidth, setPage, setText } from '../../core/definition/edits/edits'
import type { ReportDefinition } from '../../core/definition/report'
import { clock } from '../../demo/company/clock'
import { salesInvoice } from '../../demo/reports/invoice'
import { parseDay } from '../../core/value/date'
import { demoDatabase, plainFetch } from '../../tests/support'
import type { ComposeReply, ComposeRequest } from './compose.worker'

const replies: ComposeReply[] = []
const worker: { onmessage?: (event: { data: ComposeRequest }) => void; postMessage: (reply: ComposeReply) => void } = {
  postMessage: reply => replies.push(reply),
}
const ask = (data: ComposeRequest) => worker.onmessage!({ data })
const answers = { month: '2026-09' }

let db: PGlite
let catalog: Catalog
let records: DataRecords
beforeAll(async () => {
  Object.assign(globalThis, { self: worker })
  await import('./compose.worker')
  ;({ db, catalog } = await demoDatabase())
  const report = assembleReport(salesInvoice(), catalog)
  const plan = planDataSet({
    levels: report.tree.levels,
    catalog,
    schema: 'company',
    used: usedFields(report, true),
    parameterTypes: report.parameterTypes,
    parameters: { month: parseDay('2026-09-01')!, customer: null },
    today: clock,
  })
  for await (const chunk of readRecords(plan, plainFetch(db), { chunk: 200, limit: 200 })) records = chunk.records
  ask({ kind: 'rows', rows: packEnvelope({}, records.levels), catalog, today: clock })
})

/** All pages, composed in one go. */
function expected(definition: ReportDefinition): Page[] {
  const { tree, layout } = assembleReport(definition, catalog)
  const pages = (pageCount: number) => {
    const composer = new Composer(layout, {
      levels: tree.levels,
      parameters: { month: parseDay('2026-09-01')!, customer: null },
      today: clock,
      boxes: true,
      // what is read aloud is known on screen too
      ...(layout.archive ? { tags: true } : {}),
      pageCount,
    })
    return bare([...composer.add(records), ...composer.end()])
  }
  return pages(pages(0).length)
}
/** A page without its place in the run, which an edit of the pages in view leaves open until all are made. */
const apart = ({ overall: _, ...page }: Page) => page
/** Tables of a page are told apart by numbers that only grow: they are counted from the page's first. */
const tables = ({ tags }: Page) => {
  const first = tags?.find(isCellTag)?.[3] ?? 0
  return tags ? { tags: tags.map(tag => (isCellTag(tag) ? [...tag.slice(0, 3), tag[3] - first, ...tag.slice(4)] : tag)) } : {}
}
/** Pages without the numbers under which the worker keeps where each box stands. */
const bare = (pages: readonly Page[]) =>
  pages.map(page => ({ ...page, ...tables(page), boxes: page.boxes.map(({ standing: _, ...box }) => box) }) as Page)
let turn = 0
async function compose(
  definition: ReportDefinition,
  request: { from: number; to: number; anchor?: { record: number; page: number } },
): Promise<{ first: ComposeReply; last: ComposeReply }> {
  replies.length = 0
  ask({ kind: 'compose', layout: 'Standard', printed: '', turn: ++turn, definition, answers, ...request })
  const first = replies[0]!
  while (first.kind === 'pages' && !(replies.at(-1) as { total?: number }).total) await new Promise(resolve => setTimeout(resolve, 5))
  return { first, last: replies.at(-1)! }
}

describe('pages made for the screen', () => {
  it('the pages in view come first, then how many there are', async () => {
    const whole = expected(salesInvoice())
    const { first, last } = await compose(salesInvoice(), { from: 0, to: 3 })
    expect(first).toMatchObject({ kind: 'pages', from: 0, total: undefined })
    expect(bare((first as { pages: Page[] }).pages)).toEqual(whole.slice(0, 3))
    expect(last).toMatchObject({ kind: 'pages', total: whole.length })
  })
  it('with a record in view, its pages are made before those above it, and are the same', async () => {
    for (const definition of [
      setColumnWidth(salesInvoice(), 'lines', 'quantity', 90),
      setText(salesInvoice(), { block: 'lines', cell: 'item', part: 'titles' }, 'Goods'),
    ]) {
      const whole = expected(definition)
      const at = whole.findIndex(page => page.record === 60)
      const { first, last } = await compose(definition, { from: at, to: at + 2, anchor: { record: 60, page: at } })
      expect(bare((first as { pages: Page[] }).pages).map(apart)).toEqual(whole.slice(at, at + 2).map(apart))
      expect(bare((last as { pages: Page[]; total: number }).pages)).toEqual(whole.slice(at, at + 2))
      expect((last as { total: number }).total).toBe(whole.length)
    }
  })
  it('where the page count changes above, the last answer puts it right', async () => {
    const definition = setPage(salesInvoice(), { orientation: 'landscape' })
    const whole = expected(definition)
    const before = expected(salesInvoice()).findIndex(page => page.record === 75)
    const { last } = await compose(definition, { from: before, to: before + 2, anchor: { record: 75, page: before } })
    expect(bare((last as { pages: Page[] }).pages)).toEqual(whole.slice(before, before + 2))
  })
  it('a stretch that is scrolled to is made on demand', async () => {
    const whole = expected(salesInvoice())
    await compose(salesInvoice(), { from: 0, to: 2 })
    ask({ kind: 'pages', turn, from: 40, to: 43 })
    expect(bare((replies.at(-1) as { pages: Page[] }).pages)).toEqual(whole.slice(40, 43))
  })
  it('pages “of n” are taken to be as many as before, and made again where they are not', async () => {
    const numbered = (definition: ReportDefinition) =>
      setText(definition, { block: 'pageFoot', cell: 'footBranch', part: 'item' }, '{{ page.overall }} of {{ page.overallCount }}')
    const [before, after] = [numbered(salesInvoice()), numbered(setPage(salesInvoice(), { orientation: 'landscape' }))]
    const [wholeBefore, wholeAfter] = [expected(before), expected(after)]
    expect(wholeAfter.length).not.toBe(wholeBefore.length)
    ask({ kind: 'rows', rows: packEnvelope({}, records.levels), catalog, today: clock })
    for (const [definition, whole] of [
      [before, wholeBefore],
      [after, wholeAfter],
    ] as const) {
      const { last } = await compose(definition, { from: 0, to: 3 })
      // what stands on the screen in the end
      const shown = replies.filter(each => each.kind === 'pages' && each.pages.length).at(-1)
      expect(bare((shown as { pages: Page[] }).pages)).toEqual(whole.slice(0, 3))
      expect((last as { total: number }).total).toBe(whole.length)
    }
  })
  it('rows that lack a field are asked for again', async () => {
    const { first } = await compose(setText(salesInvoice(), { block: 'lines', cell: 'unit', part: 'line' }, '{{ item.cost }}'), {
      from: 0,
      to: 2,
    })
    expect(first).toEqual({ kind: 'missing', turn })
  })
  it('a table that is gone is told in a sentence', async () => {
    ask({
      kind: 'rows',
      rows: packEnvelope({}, records.levels),
      catalog: { ...catalog, tables: catalog.tables.filter(table => table.name !== 'units') },
      today: clock,
    })
    const { first } = await compose(salesInvoice(), { from: 0, to: 2 })
    expect(first).toMatchObject({
      kind: 'failed',
      sentence: 'The table “units” of “unit” is not in the source any more; restore it or take “unit” out of level “Lines”.',
    })
    ask({ kind: 'rows', rows: packEnvelope({}, records.levels), catalog, today: clock })
  })
})
