import { createRequire } from 'node:module'
import { deflateSync } from 'node:zlib'
import PDFDocument from 'pdfkit'
import { fontFile, type FontName, minusSign, uprightOf } from '../../../core/compose/fonts'
import type { Page } from '../../../core/compose/page'
import type { Shape } from '../../../core/compose/svgShapes'
import { type AttachedFile, writeArchive } from './pdfArchive'
import { ByteText } from './byteText'
import { type ObjectBook, PackedObjects, packing, Raw } from './pdfObjects'
import { PdfTags, type ReadPart, structureOf, utf16 } from './pdfTags'

const require = createRequire(import.meta.url)

/** The part of PDFKit's font object that writes glyphs: ids as hexadecimal text, and whether advances need no correction. */
interface EmbeddedFont {
  id: string
  ref(): unknown
  encode(text: string): [string[], unknown[]]
}

/** The part of PDFKit's document that holds its fonts. */
interface FontBook {
  font(file: string): unknown
  _font: EmbeddedFont & { font: unknown }
  _fontCount: number
  _fontFamilies: Record<string, EmbeddedFont>
}

/** Font files as they were parsed, with PDFKit's class of fonts: parsing one takes longer than a document of a page. */
const parsed = new Map<FontName, { font: unknown; Embedded: new (document: FontBook, font: unknown, id: string) => EmbeddedFont }>()

/**
 * A font in a document. Its tables are those that were parsed once; its glyphs are the document's own: a glyph keeps for good the
 * characters that it stood for first, and a part of another one, such as the dot of a colon, has stood for none.
 */
function embedded(document: FontBook, name: FontName): EmbeddedFont {
  let known = parsed.get(name)
  if (!known) {
    document.font(require.resolve(fontFile(name)))
    const { _font: font } = document
    parsed.set(name, (known = { font: font.font, Embedded: font.constructor as never }))
  }
  const id = `F${++document._fontCount}`
  const own = Object.assign(Object.create(known.font as object) as object, { _glyphs: {} })
  return (document._fontFamilies[id] = new known.Embedded(document, own, id))
}

/** A content stream of PDFKit's that is not written yet. */
interface ContentStream {
  buffer: Uint8Array[]
  compress: boolean
  data: Record<string, unknown>
}

/** An entry of a file's outline. */
export type OutlineEntry = object

interface Face {
  font: EmbeddedFont
  glyphs: Map<string, string>
}
/** What a font gives for a character that it has not. */
const noGlyph = '0000'

/** Numbers with up to two digits after the mark are finer than any printer. */
const n = (value: number) => String(Math.round(value * 100) / 100)

/**
 * Writes pages as a PDF, one after the other, with raw content operators (ISO 32000-1, chapters 8 and 9): each character is encoded once,
 * and each page is one content stream. Memory does not grow with the pages but for the file's own table of objects.
 */
export class PdfWriter {
  readonly document: PDFKit.PDFDocument
  private readonly faces = new Map<FontName, Face>()
  private readonly colours = new Map<string, string>()
  private readonly bitmaps = new Map<string, { label: string; xobject: unknown }>()
  private readonly outlines = new WeakMap<readonly Shape[], string>()

  private readonly text = new ByteText()
  private readonly tags: PdfTags | undefined
  private readonly described: { title: string; language: string; at: Date } | undefined

  /**
   * `title` stands in the file's information; the pages' bytes go to `out`, which says when to wait by its `write` result. With `kept` the
   * file is PDF/A-2b, tagged by what its pages say is read, in a language.
   */
  constructor(
    out: NodeJS.WritableStream,
    title: string,
    { moment = new Date(), kept }: { moment?: Date; kept?: { language: string } } = {},
  ) {
    this.document = new PDFDocument({
      autoFirstPage: false,
      bufferPages: false,
      // no font but those that pages are written with
      font: null as never,
      info: { Title: title, Producer: 'Estante', Creator: 'Estante', CreationDate: moment },
      ...(kept ? { pdfVersion: '1.7' } : {}),
    })
    if (kept) {
      const book = this.document as unknown as ObjectBook & { endMetadata: () => void }
      // what PDFKit writes of its own is not escaped
      book.endMetadata = () => {}
      this.described = { title: title || 'Report', language: kept.language, at: moment }
      this.tags = new PdfTags(new PackedObjects(book), book, kept.language)
    }
    this.document.pipe(out)
  }

  add(page: Page): void {
    const { document, tags } = this
    const written = (document.page as unknown as { dictionary: { data: object } } | null)?.dictionary
    document.addPage({ size: [page.width, page.height], margin: 0 })
    // the page before is on its way by now; of it the list of pages needs only the number, not the contents
    if (written) written.data = {}
    // PDFKit turns each page upside down at its start; that goes, so that PDF's own axes hold
    const { content } = document.page as unknown as { content: ContentStream }
    const out = tags ? this.tagged(page, tags) : this.drawn(page)
    content.buffer = [deflateSync(out, { level: packing })]
    content.compress = false
    content.data.Filter = 'FlateDecode'
  }

  private drawn(page: Page): Uint8Array {
    const drawing = new Drawing(this, page, this.text)
    for (const item of page.items) {
      if (item.kind === 'link') this.document.link(item.x, item.y, item.width, item.height, item.href)
      else if (item.kind === 'figure') drawing.mark(`/Span << /Alt ${utf16(item.alternative)} >> BDC`)
      else if (item.kind === 'figureEnd') drawing.mark('EMC')
      else drawing.draw(item)
    }
    return drawing.end()
  }

  /** A page whose items are each read, or said to be left out. */
  private tagged(page: Page, tags: PdfTags): Uint8Array {
    const { dictionary } = this.document.page as unknown as { dictionary: { id: number; data: Record<string, unknown> } }
    if (page.number === 1 && (page.document !== undefined || page.label !== undefined))
      tags.begin(page.label ?? page.document, page.language)
    const key = tags.key()
    Object.assign(dictionary.data, { StructParents: key, Tabs: 'S' })
    const drawing = new Drawing(this, page, this.text)
    const parts: ReadPart[] = []
    const stretches = page.tags ?? []
    let next = 0
    let open: 'left out' | 'read' | undefined
    let links: ReadPart['links'][number][] = noLinks
    const close = () => {
      if (open) drawing.mark('EMC', open === 'read')
      open = undefined
    }
    const { items } = page
    for (let at = 0; at < items.length; at++) {
      const item = items[at]!
      const tag = stretches[next]
      const inside = tag && at >= tag[0]
      if (item.kind === 'figure') {
        close()
        const mark = parts.length
        drawing.mark(`/Figure <</MCID ${mark}>> BDC`)
        const box = [item.x, page.height - item.y - item.height, item.x + item.width, page.height - item.y].map(each =>
          Number(n(each)),
        ) as [number, number, number, number]
        parts.push({ mark, alternative: item.alternative, box, links: noLinks })
        open = 'read'
      } else if (item.kind === 'figureEnd') {
        drawing.mark('EMC')
        open = undefined
      } else if (item.kind === 'link') {
        const own = tags.key()
        const { annotations } = this.document.page as unknown as { annotations: { id: number }[] }
        this.document.link(item.x, item.y, item.width, item.height, item.href, {
          StructParent: own,
          Contents: new Raw(utf16(item.href)) as never,
        } as never)
        links = [...links, tags.link(annotations.at(-1)!.id, own, dictionary.id)]
      } else {
        const read = parts.at(-1)
        if (open === 'read' && read && 'alternative' in read && !inside) drawing.draw(item)
        else {
          const wanted = inside && item.kind === 'text' ? 'read' : 'left out'
          if (open !== wanted || (wanted === 'read' && at === tag![0])) {
            close()
            if (wanted === 'left out') drawing.mark('/Artifact BMC')
            else drawing.read(structureOf(tag!), parts.length)
            open = wanted
          }
          drawing.draw(item)
        }
      }
      if (inside && at === tag[1] - 1) {
        if (open === 'read') {
          close()
          parts.push({ mark: parts.length, tag, links })
          links = noLinks
        }
        next++
      }
    }
    close()
    tags.add(dictionary.id, key, parts)
    return drawing.end()
  }

  /** An entry of the file's outline, which leads to the page that was added last; with another, it stands under that. */
  entry(title: string, under?: OutlineEntry): OutlineEntry {
    return ((under as PDFKit.PDFOutline | undefined) ?? this.document.outline).addItem(title) as unknown as OutlineEntry
  }

  /** Finishes the file; `attached` says the same as its pages, for machines, and makes a file that is kept PDF/A-3b. */
  end(attached?: AttachedFile): void {
    if (this.tags && this.described) {
      const book = this.document as unknown as ObjectBook
      this.tags.end()
      writeArchive(book, { ...this.described, ...(attached ? { attached } : {}) })
    }
    this.document.end()
  }

  face(name: FontName): Face {
    let face = this.faces.get(name)
    if (!face) {
      face = { font: embedded(this.document as unknown as FontBook, name), glyphs: new Map() }
      this.faces.set(name, face)
    }
    return face
  }

  /** A picture is written into the file once, on however many pages it stands. */
  bitmap(data: string): { label: string; xobject: unknown } {
    let found = this.bitmaps.get(data)
    if (!found) {
      const image = (
        this.document as unknown as { openImage(source: Buffer): { label: string; obj?: unknown; embed(document: unknown): void } }
      ).openImage(Buffer.from(data.slice(data.indexOf(',') + 1), 'base64'))
      image.label = `P${this.bitmaps.size + 1}`
      image.embed(this.document)
      this.bitmaps.set(data, (found = { label: image.label, xobject: image.obj }))
    }
    return found
  }

  colour(hex: string): string {
    let found = this.colours.get(hex)
    if (!found) {
      const full = hex.length === 4 ? hex.replace(/[0-9a-f]/gi, '$&$&') : hex
      found = `${[1, 3, 5].map(at => n(((parseInt(full.slice(at, at + 2), 16) / 255) * 1000) / 1000)).join(' ')} rg`
      this.colours.set(hex, found)
    }
    return found
  }

  outline(shapes: readonly Shape[]): string {
    let found = this.outlines.get(shapes)
    if (!found) {
      const operators = { M: 'm', L: 'l', C: 'c', Z: 'h' } as const
      found = shapes
        .map(
          shape =>
            `${this.colour(shape.fill)} ` +
            `${shape.path.map(([kind, ...values]) => [...(values as number[]).map(n), operators[kind]].join(' ')).join(' ')} f`,
        )
        .join(' ')
      this.outlines.set(shapes, found)
    }
    return found
  }
}

const noLinks: never[] = []

type Drawn = Exclude<Page['items'][number], { kind: 'link' | 'figure' | 'figureEnd' }>

/** The operators that draw a page. */
class Drawing {
  private readonly resources: Record<string, unknown>
  private font = ''
  private size = 0
  private colour = ''
  private writing = false

  constructor(
    private readonly writer: PdfWriter,
    private readonly page: Page,
    private readonly out: ByteText,
  ) {
    out.clear()
    this.resources = (writer.document.page as unknown as { fonts: Record<string, unknown> }).fonts
  }

  private inText(wanted: boolean): void {
    if (this.writing !== wanted) this.out.text(wanted ? 'BT\n' : 'ET\n')
    this.writing = wanted
  }

  /** Where marked content begins or ends: within the text that is being written, or outside all text. */
  mark(operator: string, within = false): void {
    this.inText(within)
    this.out.text(operator).text('\n')
  }

  /** A stretch of text that is read begins. */
  read(structure: string, mark: number): void {
    this.inText(true)
    this.out.text('/').text(structure).text('<</MCID ').number(mark).text('>>BDC\n')
  }

  draw(item: Drawn): void {
    const { out, page, writer } = this
    if (item.kind === 'text') {
      if (!item.text) return
      this.inText(true)
      if (item.colour !== this.colour) out.text(writer.colour((this.colour = item.colour))).text('\n')
      out.text(item.rotated ? '0 1 -1 0 ' : '1 0 0 1 ')
      out
        .fixed(item.x)
        .text(' ')
        .fixed(page.height - item.y)
        .text(' Tm\n')
      for (const [name, text] of facesOf(item.font, item.text)) {
        const face = writer.face(name)
        this.resources[face.font.id] ??= face.font.ref()
        if (face.font.id !== this.font || item.size !== this.size) {
          ;[this.font, this.size] = [face.font.id, item.size]
          out.text('/').text(this.font).text(' ').fixed(this.size).text(' Tf\n')
        }
        encode(face, text, out.text('<')).text('> Tj\n')
      }
      return
    }
    this.inText(false)
    const { x, y } = item
    if (item.kind === 'fill') {
      if (item.colour !== this.colour) out.text(writer.colour((this.colour = item.colour))).text('\n')
      out
        .fixed(x)
        .text(' ')
        .fixed(page.height - y - item.height)
        .text(' ')
      out.fixed(item.width).text(' ').fixed(item.height).text(' re f\n')
    } else if (item.kind === 'bitmap') {
      const { label, xobject } = writer.bitmap(item.data)
      const { xobjects } = writer.document.page as unknown as { xobjects: Record<string, unknown> }
      xobjects[label] ??= xobject
      out.text(`q ${n(item.width)} 0 0 ${n(item.height)} ${n(x)} ${n(page.height - y - item.height)} cm /${label} Do Q\n`)
    } else {
      out.text(`q ${n(item.scale)} 0 0 ${n(-(item.scaleY ?? item.scale))} ${n(x)} ${n(page.height - y)} cm `)
      out.text(writer.outline(item.shapes)).text(' Q\n')
    }
  }

  end(): Uint8Array {
    this.inText(false)
    return this.out.written
  }
}

/** The parts of a text that are written in one face each. */
function facesOf(font: FontName, text: string): [FontName, string][] {
  const upright = uprightOf[font]
  return upright && text.includes(minusSign)
    ? text.split(/(\u2212+)/).flatMap((part): [FontName, string][] => (part ? [[part[0] === minusSign ? upright : font, part]] : []))
    : [[font, text]]
}

/** How a page's file is made: to be kept, where the page says what is read of it. */
export const keptBy = ({ language }: Page): { kept?: { language: string } } => (language === undefined ? {} : { kept: { language } })

/** Writes glyph ids of a text as hexadecimal digits, each character encoded once per face. */
function encode(face: Face, text: string, out: ByteText): ByteText {
  for (const char of text) {
    let glyph = face.glyphs.get(char)
    if (glyph === undefined) {
      glyph = face.font.encode(char)[0].join('')
      // the glyph that says nothing has no place on paper, least of all in a file that is kept
      if (glyph === noGlyph) glyph = face.font.encode('?')[0].join('')
      face.glyphs.set(char, glyph)
    }
    out.text(glyph)
  }
  return out
}
