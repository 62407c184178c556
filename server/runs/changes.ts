import { compareRows } from '../../core/compare/changes'
import { RowReader } from '../../core/compare/rows'
import { assembleReport } from '../../core/compose/assemble'
import type { Page } from '../../core/compose/page'
import { comparedBlocks } from '../../core/compose/layoutWalk'
import type { RunInput } from './input'
import { type KeptPages, readPages } from './spool'
import type { RunChanges } from '../../core/api/answers'

/** Rows that are told one by one. */
const most = 3000

async function rowsOf({ pages, places }: KeptPages): Promise<RowReader> {
  const reader = new RowReader()
  const count = places.length - 1
  for (let from = 0; from < count; from += 50) {
    for (const text of await readPages(pages, places, from, Math.min(from + 50, count))) reader.add(JSON.parse(text) as Page)
  }
  return reader
}

/** What two runs of a report differ in, from the pages that they have kept; `input` is that of the later one. */
export async function changesOf({ input, before, now }: { input: RunInput; before: KeptPages; now: KeptPages }): Promise<RunChanges> {
  const { layout } = assembleReport(input.definition, input.catalog, input.dataSet, input.layout)
  const compared = new Map(comparedBlocks(layout).map(each => [each.block, each]))
  const [older, newer] = [await rowsOf(before), await rowsOf(now)]
  return {
    ...compareRows(older.rows, newer.rows, {
      language: layout.language,
      most,
      addsUp: block => compared.get(block)?.addsUp ?? true,
      isNumber: (block, row, cell) => compared.get(block)?.isNumber(row, cell) ?? false,
    }),
    titles: { ...older.titles, ...newer.titles },
  }
}

/** Pages of two runs that do not draw the same, from 0; those that only one of them has are among them. */
export async function differingPages(before: KeptPages, now: KeptPages): Promise<number[]> {
  const counts = [before, now].map(each => each.places.length - 1) as [number, number]
  const [few, many] = [Math.min(...counts), Math.max(...counts)]
  const found: number[] = []
  const items = (text: string) => JSON.stringify((JSON.parse(text) as Page).items)
  for (let from = 0; from < few; from += 50) {
    const to = Math.min(from + 50, few)
    const [older, newer] = await Promise.all([before, now].map(each => readPages(each.pages, each.places, from, to)))
    older!.forEach((text, at) => {
      if (text !== newer![at] && items(text) !== items(newer![at]!)) found.push(from + at)
    })
  }
  for (let page = few; page < many; page++) found.push(page)
  return found
}
