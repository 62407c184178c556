import { finished } from 'node:stream/promises'
import { gridDepth } from '../../core/compose/grid'
import { runGrid } from './execute'
import { XlsxWriter } from './formats/xlsx'
import type { RunInput } from './input'
import { KeptRows, type KeptRead } from './keptRows'
import { RunMeter } from './meter'
import { outFile } from './outFile'
import { readyRun, type ReadyRun } from './ready'
import { keptFetch } from './remote'
import { goOn } from './stop'
import { addAll } from './write'

/** A run of a pack as a sheet: what it is called, and the rows that it has kept. */
export interface SheetPart {
  title: string
  kept: KeptRead
}

/** All parts of a pack as one workbook, a sheet for each, out of the rows that their runs have kept. */
export async function packBook(
  title: string,
  parts: readonly SheetPart[],
  inputs: readonly RunInput[],
  facts: readonly (readonly [string, string])[],
  to: string,
): Promise<{ sheets: number }> {
  const out = outFile(to)
  let book: XlsxWriter | undefined
  for (const [at, { title: own, kept }] of parts.entries()) {
    goOn()
    const rows = await KeptRows.open(kept)
    try {
      const ready: ReadyRun = readyRun({ ...inputs[at]!, keeps: true })
      const { columns, events } = await runGrid(ready, keptFetch(undefined, rows), new RunMeter(), false)
      const sheet = { columns, depth: gridDepth(ready.report.layout.blocks), page: ready.report.layoutDefinition.page }
      if (book) await book.part(own, sheet)
      else book = new XlsxWriter(out, { title: own, sheets: 'one', ...sheet, facts: [['Pack', title], ...facts] })
      for await (const some of events) await addAll(book, some)
    } finally {
      await rows.close()
    }
  }
  await book?.end()
  if (!out.writableFinished) await finished(out)
  return { sheets: parts.length }
}
