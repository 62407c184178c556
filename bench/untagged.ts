// The writer of PDF as it was before files could be kept and tagged, on the day when the limits of the tagged one were set: their measure.
import { createRequire } from 'node:module'
import PDFDocument from 'pdfkit'
import { fontFile, type FontName, minusSign, uprightOf } from '../core/compose/fonts'
import type { Page } from '../core/compose/page'
import type { Shape } from '../core/compose/svgShapes'

const require = createRequire(import.meta.url)

/** The part of PDFKit's font object that writes glyphs: ids as hexadecimal text, and whether advances need no correction. */
interface EmbeddedFont {
  id: string
  ref(): unknown
  encode(text: string): [string[], unknown[]]
}

interface Face {
  font: EmbeddedFont
  glyphs: Map<string, string>
}

/** Numbers with up to two digits after the mark are finer than any printer. */
const n = (value: number) => String(Math.round(value * 100) / 100)

/**
 * Writes pages as a PDF, one after the other, with raw content operators (ISO 32000-1, chapters 8 and 9): each character is encoded once,
 * and each page is one content stream. Memory does not grow with the pages but for the file's own table of objects.
 */
export class PdfWriter {
  private readonly document: PDFKit.PDFDocument
  private readonly faces = new Map<FontName, Face>()
  private readonly colours = new Map<string, string>()
  private readonly bitmaps = new Map<string, { label: string; xobject: unknown }>()
  private readonly outlines = new WeakMap<readonly Shape[], string>()

  /** `title` stands in the file's information; the pages' bytes go to `out`, which says when to wait by its `write` result. */
  constructor(out: NodeJS.WritableStream, title: string, moment = new Date()) {
    this.document = new PDFDocument({
      autoFirstPage: false,
      bufferPages: false,
      info: { Title: title, Producer: 'Estante', Creator: 'Estante', CreationDate: moment },
    })
    this.document.pipe(out)
  }

  add(page: Page): void {
    const { document } = this
    const written = (document.page as unknown as { dictionary: { data: object } } | null)?.dictionary
    document.addPage({ size: [page.width, page.height], margin: 0 })
    // the page before is on its way by now; of it the list of pages needs only the number, not the contents
    if (written) written.data = {}
    const resources = (document.page as unknown as { fonts: Record<string, unknown> }).fonts
    const out: string[] = []
    let font = ''
    let colour = ''
    let writing = false
    for (const item of page.items) {
      if (item.kind === 'link') {
        document.link(item.x, item.y, item.width, item.height, item.href)
        continue
      }
      if (item.kind === 'text') {
        if (!item.text) continue
        if (!writing) {
          out.push('BT')
          writing = true
        }
        if (item.colour !== colour) out.push(this.colour((colour = item.colour)))
        out.push(`${item.rotated ? '0 1 -1 0' : '1 0 0 1'} ${n(item.x)} ${n(page.height - item.y)} Tm`)
        for (const [name, text] of facesOf(item.font, item.text)) {
          const face = this.face(name)
          resources[face.font.id] ??= face.font.ref()
          const wanted = `/${face.font.id} ${n(item.size)} Tf`
          if (wanted !== font) out.push((font = wanted))
          out.push(`<${encode(face, text)}> Tj`)
        }
        continue
      }
      if (writing) {
        out.push('ET')
        writing = false
      }
      if (item.kind === 'fill') {
        if (item.colour !== colour) out.push(this.colour((colour = item.colour)))
        out.push(`${n(item.x)} ${n(page.height - item.y - item.height)} ${n(item.width)} ${n(item.height)} re f`)
      } else if (item.kind === 'bitmap') {
        const { label, xobject } = this.bitmap(item.data)
        const { xobjects } = document.page as unknown as { xobjects: Record<string, unknown> }
        xobjects[label] ??= xobject
        out.push(`q ${n(item.width)} 0 0 ${n(item.height)} ${n(item.x)} ${n(page.height - item.y - item.height)} cm /${label} Do Q`)
      } else if (item.kind === 'shapes') {
        out.push(
          `q ${n(item.scale)} 0 0 ${n(-(item.scaleY ?? item.scale))} ${n(item.x)} ${n(page.height - item.y)} cm ` +
            `${this.outline(item.shapes)} Q`,
        )
      }
    }
    if (writing) out.push('ET')
    const raw = document as unknown as { addContent(text: string): void; page: { height: number } }
    // PDFKit turns each page upside down at its start; this turns it back, so that PDF's own axes hold
    raw.addContent(`1 0 0 -1 0 ${n(page.height)} cm`)
    raw.addContent(out.join('\n'))
  }

  /** Finishes the file. */
  end(): void {
    this.document.end()
  }

  private face(name: FontName): Face {
    let face = this.faces.get(name)
    if (!face) {
      this.document.font(require.resolve(fontFile(name)))
      face = { font: (this.document as unknown as { _font: EmbeddedFont })._font, glyphs: new Map() }
      this.faces.set(name, face)
    }
    return face
  }

  /** A picture is written into the file once, on however many pages it stands. */
  private bitmap(data: string): { label: string; xobject: unknown } {
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

  private colour(hex: string): string {
    let found = this.colours.get(hex)
    if (!found) {
      const full = hex.length === 4 ? hex.replace(/[0-9a-f]/gi, '$&$&') : hex
      found = `${[1, 3, 5].map(at => n(((parseInt(full.slice(at, at + 2), 16) / 255) * 1000) / 1000)).join(' ')} rg`
      this.colours.set(hex, found)
    }
    return found
  }

  private outline(shapes: readonly Shape[]): string {
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

/** The parts of a text that are written in one face each. */
function facesOf(font: FontName, text: string): [FontName, string][] {
  const upright = uprightOf[font]
  return upright && text.includes(minusSign)
    ? text.split(/(\u2212+)/).flatMap((part): [FontName, string][] => (part ? [[part[0] === minusSign ? upright : font, part]] : []))
    : [[font, text]]
}

/** Glyph ids of a text as hexadecimal digits, each character encoded once per face. */
function encode(face: Face, text: string): string {
  let hex = ''
  for (const char of text) {
    let glyph = face.glyphs.get(char)
    if (glyph === undefined) face.glyphs.set(char, (glyph = face.font.encode(char)[0].join('')))
    hex += glyph
  }
  return hex
}
