// Composes and writes invoices to PDF in a process of its own, then replays the saved display lists with the least that PDFKit needs.
import { createWriteStream, statSync } from 'node:fs'
import { createRequire } from 'node:module'
import { join } from 'node:path'
import { finished } from 'node:stream/promises'
import PDFDocument from 'pdfkit'
import { fontFile } from '../core/compose/fonts'
import type { Page } from '../core/compose/page'
import { salesInvoice } from '../demo/reports/invoice'
import { groupedLines } from './groups'
import type { Query } from '../core/sql/query'
import { askCompany, tester } from './support'
import { openEstante } from '../server/estante'
import { readyRun } from '../server/runs/ready'
import { RunMeter } from '../server/runs/meter'
import { earlyPage, runPages } from '../server/runs/execute'
import { PageSpool, readPages } from '../server/runs/spool'
import { PdfWriter } from '../server/runs/formats/pdf'

const [, , folder, out, wanted, kind] = process.argv as [string, string, string, string, string, 'invoices' | 'groups']
const count = Number(wanted)
const require = createRequire(import.meta.url)
const estante = await openEstante({ folder })
const definition = kind === 'groups' ? groupedLines(count) : salesInvoice()
if (kind !== 'groups') definition.dataSets[0]!.root.filters = ['kind = "invoice"', `id <= ${Math.round(count * 1.034)}`]
const ready = readyRun(await estante.input(tester, 'Sales invoice', definition, {}))

const fetch = (query: Query) => askCompany(estante, query)

// the first page that is shown: the early one, where the report has such a page
const asking = performance.now()
const early = await earlyPage(readyRun(await estante.input(tester, 'Sales invoice', definition, {})), fetch)
const earlyAfter = performance.now() - asking

// the whole run, as a server's run does it
const meter = new RunMeter()
const file = createWriteStream(join(out, 'ours.pdf'))
const writer = new PdfWriter(file, 'Sales invoice')
let write = 0
let first = 0
const begun = performance.now()
let pages = 0
const heap: [number, number] = [0, 0]
for await (const page of runPages(ready, fetch, meter)) {
  const began = performance.now()
  writer.add(page)
  if (file.writableNeedDrain) await new Promise<void>(resolve => file.once('drain', () => resolve()))
  write += performance.now() - began
  pages++
  if (pages === 1) first = performance.now() - begun
  for (const [index, share] of [0.1, 0.9].entries()) {
    if (pages === Math.round(count * share)) {
      await new Promise(resolve => setTimeout(resolve, 300))
      global.gc!()
      heap[index] = process.memoryUsage().heapUsed
    }
  }
}
const ending = performance.now()
writer.end()
await finished(file)
write += performance.now() - ending

// the same display lists saved, then replayed
const spoolFile = join(out, 'pages')
const spool = await PageSpool.create(spoolFile)
for await (const page of runPages(ready, fetch, new RunMeter())) await spool.add(page)
await spool.flush()
await spool.close()
const places = spool.places
let replay = 0
{
  const began = performance.now()
  const bare = new PDFDocument({ autoFirstPage: false })
  const target = createWriteStream(join(out, 'bare.pdf'))
  bare.pipe(target)
  replay += performance.now() - began
  const faces = new Map<string, { id: string; ref: () => unknown; encode: (text: string) => [string[]] }>()
  const glyphs = new Map<string, Map<string, string>>()
  const raw = bare as unknown as { addContent: (text: string) => void; page: { fonts: Record<string, unknown> }; _font: never }
  for (let from = 0; from < places.length - 1; from += 200) {
    const lists = (await readPages(spoolFile, places, from, Math.min(from + 200, places.length - 1))).map(text => JSON.parse(text) as Page)
    const start = performance.now()
    for (const page of lists) {
      bare.addPage({ size: [page.width, page.height], margin: 0 })
      let content = `1 0 0 -1 0 ${page.height} cm\n`
      for (const item of page.items) {
        if (item.kind === 'text') {
          let face = faces.get(item.font)
          if (!face) {
            bare.font(require.resolve(fontFile(item.font)))
            faces.set(item.font, (face = raw._font))
            glyphs.set(item.font, new Map())
          }
          raw.page.fonts[face!.id] ??= face!.ref()
          const known = glyphs.get(item.font)!
          let hex = ''
          for (const char of item.text) {
            let glyph = known.get(char)
            if (!glyph) known.set(char, (glyph = face!.encode(char)[0].join('')))
            hex += glyph
          }
          content +=
            `BT ${rgb(item.colour)} rg /${face!.id} ${item.size} Tf 1 0 0 1 ${item.x.toFixed(2)} ` +
            `${(page.height - item.y).toFixed(2)} Tm <${hex}> Tj ET\n`
        } else if (item.kind === 'fill')
          content +=
            `${rgb(item.colour)} rg ${item.x.toFixed(2)} ${(page.height - item.y - item.height).toFixed(2)} ` +
            `${item.width.toFixed(2)} ${item.height.toFixed(2)} re f\n`
        else if (item.kind === 'shapes')
          for (const shape of item.shapes)
            content += `${rgb(shape.fill)} rg ${shape.path
              .map(([kind, ...v]) => {
                const moved = (value: number, at: number) =>
                  at % 2 ? page.height - item.y - value * item.scale : item.x + value * item.scale
                const figures = (v as number[]).map((value, at) => moved(value, at).toFixed(2))
                return `${figures.join(' ')} ${{ M: 'm', L: 'l', C: 'c', Z: 'h' }[kind]}`
              })
              .join(' ')} f\n`
      }
      raw.addContent(content)
    }
    if (target.writableNeedDrain) await new Promise<void>(resolve => target.once('drain', () => resolve()))
    replay += performance.now() - start
  }
  const start = performance.now()
  bare.end()
  await finished(target)
  replay += performance.now() - start
}
function rgb(colour: string): string {
  return [1, 3, 5].map(at => (parseInt(colour.slice(at, at + 2), 16) / 255).toFixed(2)).join(' ')
}
console.log(
  JSON.stringify({
    first: early ? earlyAfter : first,
    rows: Object.values(meter.rows).reduce((sum, each) => sum + each, 0),
    pages,
    compose: meter.ms.compose,
    fetch: meter.ms.fetch,
    shape: meter.ms.shape,
    write,
    replay,
    heap,
    bytes: statSync(join(out, 'ours.pdf')).size,
  }),
)
await estante.close()
process.exit(0)
