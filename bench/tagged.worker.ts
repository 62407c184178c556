// Writes pages of a table of 50 rows and 8 columns in a process of its own: as they are drawn, or kept and tagged.
import { createWriteStream } from 'node:fs'
import { join } from 'node:path'
import { finished } from 'node:stream/promises'
import { fontNames } from '../core/compose/fonts'
import type { Page } from '../core/compose/page'
import type { Tag } from '../core/compose/tags'
import { PdfWriter } from '../server/runs/formats/pdf'
import { PdfWriter as Before } from './untagged'

const [, , folder, count, kind] = process.argv as [string, string, string, string, 'before' | 'plain' | 'kept']
const [rows, columns] = [50, 8]

/** The same page again and again but for its texts, as a table goes over pages. */
function pageAt(at: number, tagged: boolean): Page {
  const items: Page['items'] = []
  const tags: Tag[] = []
  for (let row = 0; row < rows; row++) {
    items.push({ kind: 'fill', x: 45, y: 60 + row * 14, width: 500, height: 0.5, colour: '#d9d2c7' })
    for (let column = 0; column < columns; column++) {
      const text = column ? ((at * 7919 + row * 104_729 + column * 1299) % 1_000_000).toLocaleString('en') : `INV-${at}-${row}`
      if (tagged) tags.push([items.length, items.length + 1, 4, 1, at * rows + row, column, 1, columns])
      items.push({ kind: 'text', x: 45 + column * 62, y: 70 + row * 14, text, font: fontNames[0]!, size: 9, colour: '#26221d' })
    }
  }
  const page = { width: 595.28, height: 841.89, overall: at + 1, number: at + 1, record: at, items, boxes: [] }
  return tagged ? { ...page, tags, language: 'en' } : page
}

let peak = 0
const watch = setInterval(() => (peak = Math.max(peak, process.memoryUsage().rss)), 20)
const out = createWriteStream(join(folder, `${kind}.pdf`))
const writer =
  kind === 'before' ? new Before(out, 'Pages') : new PdfWriter(out, 'Pages', kind === 'kept' ? { kept: { language: 'en' } } : {})
let took = 0
for (let at = 0; at < Number(count); at++) {
  const page = pageAt(at, kind === 'kept')
  const began = performance.now()
  writer.add(page)
  if (out.writableNeedDrain) await new Promise<void>(resolve => out.once('drain', () => resolve()))
  took += performance.now() - began
  // memory is looked at, and collected, as in a server that does other things too
  if (at % 50 === 0) await new Promise(resolve => setImmediate(resolve))
  peak = Math.max(peak, process.memoryUsage().rss)
}
const ending = performance.now()
writer.end()
await finished(out)
took += performance.now() - ending
clearInterval(watch)
console.log(JSON.stringify({ took, peak }))
process.exit(0)
