import { outFile, room } from './outFile'
import { keptBy, PdfWriter } from './formats/pdf'
import type { AttachedFile } from './formats/pdfArchive'
import { type KeptPages, readPages } from './spool'
import { goOn } from './stop'
import type { Page } from '../../core/compose/page'
import { finished } from 'node:stream/promises'
import { ZipFile } from './zipFile'
import { uniqueNamer } from '../../core/parameter/fileName'
import { PassThrough } from 'node:stream'

/** The PDF of pages that a run has kept: the same pages that were on screen. */
export async function pdfOfPages(title: string, { pages: file, places }: KeptPages, to: string): Promise<{ pages: number }> {
  const out = outFile(to)
  let pdf: PdfWriter | undefined
  const count = places.length - 1
  for (let from = 0; from < count; from += 50) {
    goOn()
    for (const text of await readPages(file, places, from, Math.min(from + 50, count))) {
      const page = JSON.parse(text) as Page
      pdf ??= new PdfWriter(out, title, keptBy(page))
      pdf.add(page)
      await room(out)
    }
  }
  pdf ??= new PdfWriter(out, title)
  pdf.end()
  await finished(out)
  return { pages: count }
}

/** Each document (from a page with a document's name up to the next) as a PDF of its own; names are cleaned and made unique. */
export async function documentsOfPages(title: string, { pages: file, places }: KeptPages, to: string): Promise<{ documents: number }> {
  const zip = new ZipFile(to)
  const named = uniqueNamer()
  let open: { name: string; pdf: PdfWriter; parts: Buffer[]; done: Promise<void> } | undefined
  let documents = 0
  const close = async () => {
    if (!open) return
    open.pdf.end()
    await open.done
    await zip.add(`${open.name}.pdf`, Buffer.concat(open.parts))
    documents++
    open = undefined
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
        open = { name, pdf: new PdfWriter(through, name, keptBy(page)), parts, done: finished(through) }
      }
      open.pdf.add(page)
    }
  }
  await close()
  await zip.end()
  return { documents }
}

/** Some pages as a PDF by themselves, in memory; with a file within that says the same to machines. */
export async function pdfBytes(title: string, pages: readonly Page[], attached?: AttachedFile): Promise<Buffer> {
  const through = new PassThrough()
  const parts: Buffer[] = []
  through.on('data', (part: Buffer) => parts.push(part))
  const pdf = new PdfWriter(through, title, keptBy(pages[0]!))
  for (const page of pages) pdf.add(page)
  pdf.end(attached)
  await finished(through)
  return Buffer.concat(parts)
}
