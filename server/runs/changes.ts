import { type Changes, compareRows } from '../../core/compare/changes'
import { RowReader } from '../../core/compare/rows'
import { assembleReport } from '../../core/compose/assemble'
import type { Page } from '../../core/compose/page'
import type { PreparedBlock, PreparedTable } from '../../core/compose/prepare'
import type { RunInput } from './execute'
import type { KeptPages } from './run.worker'
import { readPages } from './spool'

/** Changes with what stands over the columns, by block. */
export interface RunChanges extends Changes {
  titles: Record<string, Record<string, string>>
}

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
  const numbers = new Set<string>()
  const statements = new Set<string>()
  const table = (each: PreparedTable): void => {
    for (const row of each.rows) {
      for (const cell of row.cells) if (cell.pattern !== undefined) numbers.add(`${each.block.id} ${row.row.id} ${cell.id}`)
      if (row.nested) table(row.nested)
    }
  }
  const visit = (blocks: readonly PreparedBlock[]): void =>
    blocks.forEach(block => {
      if (block.kind === 'repeat') visit(block.inner)
      else if (block.kind === 'table') table(block)
      else if (block.kind === 'statement') statements.add(block.block.id)
    })
  visit(layout.blocks)
  const [older, newer] = [await rowsOf(before), await rowsOf(now)]
  return {
    ...compareRows(older.rows, newer.rows, {
      language: layout.language,
      most,
      addsUp: block => !statements.has(block),
      isNumber: (block, row, cell) => (statements.has(block) ? cell !== 'caption' : numbers.has(`${block} ${row} ${cell}`)),
    }),
    titles: { ...older.titles, ...newer.titles },
  }
}
