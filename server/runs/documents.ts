import { outFile, room } from './outFile'
import { PdfWriter } from './formats/pdf'
import { type KeptPages, readPages } from './spool'
import { goOn } from './stop'
import type { Page } from '../../core/compose/page'
import { finished } from 'node:stream/promises'
import { Zip, ZipPassThrough } from 'fflate'
import { uniqueNamer } from '../../core/parameter/fileName'
import { PassThrough } from 'node:stream'

/** The PDF of pages that a run has kept: the same pages that were on screen. */
export async function pdfOfPages(title: string, { pages: file, places }: KeptPages, to: string): Promise<{ pages: number }> {
  const out = outFile(to)
  const pdf = new PdfWriter(out, title)
  const count = places.length - 1
  for (let from = 0; from < count; from += 50) {
    goOn()
    for (const text of await readPages(file, places, from, Math.min(from + 50, count))) {
      pdf.add(JSON.parse(text) as Page)
      await room(out)
    }
  }
  pdf.end()
  await finished(out)
  return { pages: count }
}

/** Each document (from a page with a document's name up to the next) as a PDF of its own; names are cleaned and made unique. */
export async function documentsOfPages(title: string, { pages: file, places }: KeptPages, to: string): Promise<{ documents: number }> {
  const out = outFile(to)
  const zip = new Zip((error, bytes, last) => {
    if (error) out.destroy(error)
    else {
      out.write(bytes)
      if (last) out.end()
    }
  })
  const named = uniqueNamer()
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
    await room(out)
  }
  const count = places.length - 1
  for (let from = 0; from < count; from += 50) {
    goOn()
    for (const text of await readPages(file, places, from, Math.min(from + 50, count))) {
      const page = JSON.parse(text) as Page
      if (page.document !== undefined || !open) {
        await close()
        const name = named(page.document ?? title)
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
