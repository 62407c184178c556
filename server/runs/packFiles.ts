import { finished } from 'node:stream/promises'
import { PassThrough } from 'node:stream'
import { Zip, ZipPassThrough } from 'fflate'
import type { Page } from '../../core/compose/page'
import { type Cover, composeCover, coverPages, numberItem, type Part } from '../../core/pack/cover'
import { uniqueNamer } from '../../core/parameter/fileName'
import { type OutlineEntry, PdfWriter } from './formats/pdf'
import { outFile, room } from './outFile'
import { type KeptPages, readPages } from './spool'
import { goOn } from './stop'

/** A run of a pack: what it is called in the whole, and its kept pages. */
export interface PackedPart {
  title: string
  kept: KeptPages
}

/** Entries of the outline under each part at most: a reader of thousands finds nothing by them. */
const mostEntries = 500

/** All parts of a pack as one PDF, with cover and contents before them and an outline; numbered over all of it, where that is wanted. */
export async function packPdf(
  title: string,
  parts: readonly PackedPart[],
  { cover, numbered }: { cover?: Cover; numbered: boolean },
  to: string,
): Promise<{ pages: number }> {
  const before = cover ? coverPages(cover, parts.length) : 0
  let next = before + 1
  const placed = parts.map(({ title: own, kept }): Part => {
    const pages = kept.places.length - 1
    const part = { title: own, page: next, pages }
    next += pages
    return part
  })
  const all = next - 1
  const out = outFile(to)
  const pdf = new PdfWriter(out, title)
  let number = 0
  const add = async (page: Page) => {
    number++
    pdf.add(numbered ? { ...page, items: [...page.items, numberItem(page, number, all)] } : page)
    await room(out)
  }
  for (const page of cover ? composeCover(cover, placed) : []) {
    await add(page)
    if (number === 1) pdf.entry(title)
  }
  for (const [at, { kept }] of parts.entries()) {
    let entry: OutlineEntry | undefined
    let entries = 0
    for await (const page of pagesOf(kept)) {
      await add(page)
      if (!entry) entry = pdf.entry(placed[at]!.title)
      if (page.label !== undefined && entries++ < mostEntries) pdf.entry(page.label, entry)
    }
  }
  pdf.end()
  await finished(out)
  return { pages: number }
}

/** Each part of a pack as a PDF of its own, in a ZIP file; names are cleaned and made unique. */
export async function packZip(parts: readonly PackedPart[], to: string): Promise<{ files: number }> {
  const out = outFile(to)
  const zip = new Zip((error, bytes, last) => {
    if (error) out.destroy(error)
    else {
      out.write(bytes)
      if (last) out.end()
    }
  })
  const name = uniqueNamer()
  for (const { title, kept } of parts) {
    const entry = new ZipPassThrough(`${name(title)}.pdf`)
    zip.add(entry)
    const through = new PassThrough()
    through.on('data', (part: Buffer) => entry.push(part))
    const pdf = new PdfWriter(through, title)
    for await (const page of pagesOf(kept)) {
      pdf.add(page)
      await room(out)
    }
    pdf.end()
    await finished(through)
    entry.push(new Uint8Array(0), true)
    await room(out)
  }
  zip.end()
  await finished(out)
  return { files: parts.length }
}

async function* pagesOf({ pages, places }: KeptPages): AsyncGenerator<Page> {
  const count = places.length - 1
  for (let from = 0; from < count; from += 50) {
    goOn()
    for (const text of await readPages(pages, places, from, Math.min(from + 50, count))) yield JSON.parse(text) as Page
  }
}
