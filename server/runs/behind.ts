import { type BehindFigure, behindFigure } from '../../core/compose/behind'
import { textBehind } from '../../core/compose/layoutWalk'
import type { Page } from '../../core/compose/page'
import type { Standing } from '../../core/formula/standing'
import type { DataRecords } from '../../core/value/records'
import { type Fetch, readRecords } from '../../core/read/read'
import { chunksOf, composerOf, planRun } from './execute'
import { RunError } from './input'
import type { ReadyRun } from './ready'
import { type KeptPages, readPages } from './spool'

/** A figure on a page of a run: its box there. `page` counts from 0; lengths are points. */
export interface FigurePlace {
  page: number
  block: string
  rowId?: string
  cell: string
  x: number
  y: number
}

/**
 * The records behind a figure, out of the rows that its run has kept: the pages are composed again up to its own, which keeps what stands
 * behind its boxes. Where each record begins on a page of its own, those before its record are passed over. Reads nothing of the source.
 * @throws RunError where the figure is not on the page
 */
export async function behindOnPage(run: ReadyRun, wanted: FigurePlace, fetch: Fetch, kept: KeptPages): Promise<BehindFigure[]> {
  const { layout, tree } = run.report
  const begin = layout.independent ? await beginOf(wanted.page, kept) : { record: 0, page: 0 }
  const only = wanted.page - begin.page + 1
  const trace: Standing[] = []
  // a page may stand on records of several chunks: which of them hold what stands from where on in `trace`
  const held: { from: number; data: DataRecords }[] = []
  const composer = composerOf(run, { boxes: true, trace, only })
  const found = (page: Page): BehindFigure[] | undefined => {
    if (page.overall !== only) return undefined
    const box = page.boxes.find(
      each =>
        each.block === wanted.block &&
        each.cell === wanted.cell &&
        each.rowId === wanted.rowId &&
        Math.abs(each.x - wanted.x) < 0.01 &&
        Math.abs(each.y - wanted.y) < 0.01,
    )
    if (!box) throw new RunError(['This figure is not on its page any more; run the report again.'])
    const [text, at] = [textBehind(layout, wanted), trace[box.standing!]!]
    if (!text) return []
    const { calendar } = run.catalog
    const { data } = held.findLast(each => each.from <= box.standing!)!
    const around = { levels: tree.levels, data, parameters: run.parameters, today: run.today }
    return behindFigure(text, at, { ...around, ...(calendar ? { calendar } : {}) }, composer.values.language)
  }
  let before = 0
  for await (const { records } of readRecords(planRun(run, 'pages'), fetch, chunksOf(run, 'pages'))) {
    const count = records.levels[0]!.count
    // chunks that nothing of the page stands on go
    if (held.at(-1)?.from === trace.length) held.pop()
    held.push({ from: trace.length, data: records })
    if (before + count > begin.record)
      for (const page of composer.add(records, Math.max(0, begin.record - before))) {
        const figures = found(page)
        if (figures) return figures
      }
    before += count
  }
  for (const page of composer.end()) {
    const figures = found(page)
    if (figures) return figures
  }
  throw new RunError([`There is no page ${wanted.page + 1} in this run any more; run the report again.`])
}

/** The record that a page of independent records stands on, and the first of its pages. */
async function beginOf(page: number, { pages, places }: KeptPages): Promise<{ record: number; page: number }> {
  const recordAt = async (at: number) => {
    const [text] = await readPages(pages, places, at, at + 1)
    return text === undefined ? -1 : (JSON.parse(text) as Page).record
  }
  const record = await recordAt(page)
  if (record < 0) return { record: 0, page: 0 }
  let first = page
  while (first > 0 && (await recordAt(first - 1)) === record) first--
  return { record, page: first }
}
