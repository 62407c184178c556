import {
  decodePDFRawStream,
  PDFArray,
  PDFBool,
  PDFDict,
  PDFDocument,
  PDFHexString,
  PDFName,
  PDFNumber,
  type PDFObject,
  PDFRawStream,
  PDFRef,
  PDFString,
} from 'pdf-lib'
import { XMLParser } from 'fast-xml-parser'

/*
 * What can be told of a file that is kept and read aloud without a full validator: checks of ISO 19005-2 and -3 (PDF/A) and ISO 14289-1
 * (PDF/UA-1) over the objects of the file, as another library reads them.
 */

const name = (text: string) => PDFName.of(text)
const painting = new Set(['Tj', 'TJ', "'", '"', 'f', 'F', 'f*', 'S', 's', 'B', 'B*', 'b', 'b*', 'Do', 'sh', 'EI'])

/** The operators of a content stream, each with what stands before it. */
export function* operatorsOf(content: string): Generator<{ operator: string; operands: string[] }> {
  let operands: string[] = []
  const token = /<<[\s\S]*?>>|<[0-9a-fA-F\s]*>|\((?:\\.|[^\\)])*\)|\[[^\]]*\]|\/[^\s/<>[\]()]*|[^\s/<>[\]()]+/g
  for (const [text] of content.matchAll(token)) {
    if (/^[A-Za-z'"][A-Za-z0-9*]*$/.test(text)) {
      yield { operator: text, operands }
      operands = []
    } else operands.push(text)
  }
}

export class CheckedPdf {
  private constructor(readonly document: PDFDocument) {}

  static async open(bytes: Uint8Array): Promise<CheckedPdf> {
    return new CheckedPdf(await PDFDocument.load(bytes, { updateMetadata: false }))
  }

  get catalog(): PDFDict {
    return this.document.catalog
  }

  look(object: PDFObject | undefined): PDFObject | undefined {
    return object instanceof PDFRef ? this.document.context.lookup(object) : object
  }

  dict(object: PDFObject | undefined): PDFDict | undefined {
    const found = this.look(object)
    return found instanceof PDFDict ? found : found instanceof PDFRawStream ? found.dict : undefined
  }

  list(object: PDFObject | undefined): PDFObject[] {
    const found = this.look(object)
    return found instanceof PDFArray ? found.asArray() : found === undefined ? [] : [found]
  }

  text(object: PDFObject | undefined): string | undefined {
    const found = this.look(object)
    return found instanceof PDFString || found instanceof PDFHexString ? found.decodeText() : undefined
  }

  number(object: PDFObject | undefined): number | undefined {
    const found = this.look(object)
    return found instanceof PDFNumber ? found.asNumber() : undefined
  }

  named(object: PDFObject | undefined): string | undefined {
    const found = this.look(object)
    return found instanceof PDFName ? found.decodeText() : undefined
  }

  bytes(object: PDFObject | undefined): Uint8Array | undefined {
    const found = this.look(object)
    return found instanceof PDFRawStream ? decodePDFRawStream(found).decode() : undefined
  }

  content(page: PDFDict): string {
    return this.list(page.get(name('Contents')))
      .map(each => Buffer.from(this.bytes(each) ?? []).toString('latin1'))
      .join('\n')
  }

  /** Elements of the structure, outer ones before those inside them, each with its kind. */
  *elements(
    from: PDFDict | undefined = this.dict(this.catalog.get(name('StructTreeRoot'))),
  ): Generator<{ kind: string; element: PDFDict }> {
    for (const kid of this.list(from?.get(name('K')))) {
      const element = this.dict(kid)
      const kind = element && this.named(element.get(name('S')))
      if (!element || !kind) continue
      yield { kind, element }
      yield* this.elements(element)
    }
  }

  /** All that is wrong, a sentence each. */
  faults(): string[] {
    return [...this.metadataFaults(), ...this.colourFaults(), ...this.fontFaults(), ...this.pageFaults(), ...this.structureFaults()]
  }

  private metadataFaults(): string[] {
    const found: string[] = []
    const stream = this.look(this.catalog.get(name('Metadata')))
    if (!(stream instanceof PDFRawStream)) return ['there are no metadata']
    if (stream.dict.get(name('Filter'))) found.push('the metadata are packed')
    const xmp = Buffer.from(this.bytes(stream)!).toString('utf8')
    const parser = new XMLParser({ ignoreAttributes: false, parseTagValue: false, processEntities: true })
    let told: Record<string, never>[] = []
    try {
      told = [parser.parse(xmp, true)['x:xmpmeta']['rdf:RDF']['rdf:Description']].flat() as never
    } catch (error) {
      return [`the metadata are no XML: ${(error as Error).message}`]
    }
    const value = (key: string) => told.find(each => key in each)?.[key] as unknown
    const part = value('pdfaid:part')
    if (!['2', '3'].includes(String(part)) || value('pdfaid:conformance') !== 'B') found.push('the metadata do not say PDF/A')
    if (value('pdfuaid:part') !== '1') found.push('the metadata do not say PDF/UA')
    for (const own of ['pdfuaid', 'fx'])
      if (xmp.includes(`<${own}:`) && !xmp.includes(`<pdfaSchema:prefix>${own}</pdfaSchema:prefix>`))
        found.push(`the schema ${own} is not described`)
    const title = (value('dc:title') as Record<string, Record<string, Record<string, string>>> | undefined)?.['rdf:Alt']?.['rdf:li']?.[
      '#text'
    ]
    const info = this.dict(this.document.context.trailerInfo.Info)
    if (!title || title !== this.text(info?.get(name('Title')))) found.push('the titles of metadata and information differ')
    if (!this.text(this.catalog.get(name('Lang')))) found.push('the file has no language')
    if (this.dict(this.catalog.get(name('MarkInfo')))?.get(name('Marked')) !== PDFBool.True) found.push('the file is not marked')
    if (this.dict(this.catalog.get(name('ViewerPreferences')))?.get(name('DisplayDocTitle')) !== PDFBool.True)
      found.push('the title is not shown')
    const files = this.list(this.catalog.get(name('AF')))
    if (files.length && part !== '3') found.push('only PDF/A-3 has files within')
    for (const file of files) {
      const own = this.dict(file)!
      if (!this.named(own.get(name('AFRelationship')))) found.push('a file within has no relationship')
      if (!this.text(own.get(name('UF')))) found.push('a file within has no name')
      const embedded = this.dict(this.dict(own.get(name('EF')))?.get(name('F')))
      if (!this.named(embedded?.get(name('Subtype')))) found.push('a file within has no type')
      if (!this.dict(embedded?.get(name('Params')))?.get(name('ModDate'))) found.push('a file within has no date')
    }
    if (!this.document.context.trailerInfo.ID) found.push('the file has no ID')
    if (this.document.context.trailerInfo.Encrypt) found.push('the file is encrypted')
    return found
  }

  private colourFaults(): string[] {
    const [intent] = this.list(this.catalog.get(name('OutputIntents')))
    const own = this.dict(intent)
    const profile = this.bytes(own?.get(name('DestOutputProfile')))
    if (this.named(own?.get(name('S'))) !== 'GTS_PDFA1' || !profile) return ['it is not said how colours are meant']
    const header = Buffer.from(profile)
    return header.toString('latin1', 36, 40) === 'acsp' &&
      header.toString('latin1', 16, 20) === 'RGB ' &&
      header.readUInt32BE(0) === header.length
      ? []
      : ['the profile of colours is none']
  }

  private fontFaults(): string[] {
    const found: string[] = []
    for (const [, object] of this.document.context.enumerateIndirectObjects()) {
      if (!(object instanceof PDFDict) || this.named(object.get(name('Type'))) !== 'Font') continue
      const kind = this.named(object.get(name('Subtype')))
      if (kind === 'Type0') {
        if (!this.bytes(object.get(name('ToUnicode')))) found.push('a font does not say what its glyphs mean')
      } else if (kind === 'CIDFontType2') {
        const descriptor = this.dict(object.get(name('FontDescriptor')))
        if (!this.bytes(descriptor?.get(name('FontFile2')))) found.push('a font is not embedded')
        if (this.named(object.get(name('CIDToGIDMap'))) !== 'Identity') found.push('a font does not say which glyphs it has')
      } else found.push(`there is a font of the kind ${kind}`)
    }
    return found
  }

  private pageFaults(): string[] {
    const found: string[] = []
    const parents = this.parents()
    for (const [index, page] of this.document.getPages().entries()) {
      const where = `page ${index + 1}`
      const own = page.node
      const key = this.number(own.get(name('StructParents')))
      const owners = key === undefined ? [] : this.list(parents.get(key))
      if (key === undefined || !parents.has(key)) found.push(`${where}: nothing is said of what is read`)
      if (this.named(own.get(name('Tabs'))) !== 'S') found.push(`${where}: the order of tabs is not that of reading`)
      const marks: (number | 'left out')[] = []
      const seen = new Set<number>()
      let text = false
      const begun: boolean[] = []
      for (const { operator, operands } of operatorsOf(this.content(own))) {
        if (operator === 'BT') text = true
        else if (operator === 'ET') {
          text = false
          if (begun.at(-1)) found.push(`${where}: marked content goes on after its text`)
        } else if (operator === 'BDC' || operator === 'BMC') {
          const mark = /\/MCID\s+(\d+)/.exec(operands.at(-1) ?? '')?.[1]
          if (mark === undefined && operands[0] !== '/Artifact') found.push(`${where}: marked content is neither read nor left out`)
          if (mark !== undefined) {
            if (seen.has(Number(mark))) found.push(`${where}: the mark ${mark} stands twice`)
            seen.add(Number(mark))
          }
          if (marks.length) found.push(`${where}: marked content stands within other`)
          marks.push(mark === undefined ? 'left out' : Number(mark))
          begun.push(text)
        } else if (operator === 'EMC') {
          if (!marks.length) found.push(`${where}: marked content ends that has not begun`)
          if (begun.pop() !== text) found.push(`${where}: marked content ends across the limit of a text`)
          marks.pop()
        } else if (painting.has(operator)) {
          if (!marks.length) found.push(`${where}: something is painted that is neither read nor left out`)
          if (operator === 'Tj' && /<(?:[0-9a-f]{4})*?0000/i.test(operands.at(-1) ?? '') && wrongGlyph(operands.at(-1)!))
            found.push(`${where}: a glyph that says nothing is shown`)
        }
      }
      if (marks.length) found.push(`${where}: marked content does not end`)
      for (const mark of seen) {
        const element = this.dict(owners[mark])
        if (!element) {
          found.push(`${where}: the mark ${mark} belongs to nothing`)
          continue
        }
        if (this.dict(element.get(name('Pg'))) !== own) found.push(`${where}: the mark ${mark} belongs to another page`)
        if (!this.list(element.get(name('K'))).some(kid => this.number(kid) === mark))
          found.push(`${where}: what the mark ${mark} belongs to has it not`)
      }
      if (owners.length !== seen.size) found.push(`${where}: ${owners.length} elements for ${seen.size} marks`)
      for (const each of this.list(own.get(name('Annots')))) {
        const annotation = this.dict(each)!
        if (((this.number(annotation.get(name('F'))) ?? 0) & 4) === 0) found.push(`${where}: an annotation is not printed`)
        if (!this.text(annotation.get(name('Contents')))) found.push(`${where}: a link says nothing`)
        const parent = this.dict(parents.get(this.number(annotation.get(name('StructParent'))) ?? -1))
        if (this.named(parent?.get(name('S'))) !== 'Link') found.push(`${where}: a link is not read as one`)
      }
    }
    return found
  }

  private parents(): Map<number, PDFObject> {
    const numbers = this.list(this.dict(this.dict(this.catalog.get(name('StructTreeRoot')))?.get(name('ParentTree')))?.get(name('Nums')))
    const found = new Map<number, PDFObject>()
    for (let at = 0; at < numbers.length; at += 2) found.set(this.number(numbers[at])!, numbers[at + 1]!)
    return found
  }

  private structureFaults(): string[] {
    const found: string[] = []
    const known = new Set(['Document', 'Sect', 'P', 'H1', 'Table', 'TBody', 'TR', 'TH', 'TD', 'Figure', 'Link'])
    for (const { kind, element } of this.elements()) {
      if (!known.has(kind)) found.push(`there is an element of the kind ${kind}`)
      if (kind === 'Figure' && !this.text(element.get(name('Alt')))) found.push('a figure has no alternative text')
      if (kind === 'TH' && !this.named(this.dict(element.get(name('A')))?.get(name('Scope')))) found.push('a head has no scope')
      for (const kid of this.list(element.get(name('K')))) {
        const own = this.dict(kid)
        if (own?.get(name('P')) && this.dict(own.get(name('P'))) !== element) found.push(`what is in a ${kind} says it is in another`)
        const inner = own && this.named(own.get(name('S')))
        if (inner === 'TR' && kind !== 'TBody') found.push('a row stands outside a table')
        if ((inner === 'TH' || inner === 'TD') && kind !== 'TR') found.push('a cell stands outside a row')
      }
      if (kind === 'Table') {
        const widths = new Set(this.rowsOf(element).map(row => row.reduce((sum, cell) => sum + cell.span, 0)))
        if (widths.size > 1) found.push(`the rows of a table have ${[...widths].join(' and ')} columns`)
      }
    }
    return found
  }

  /** Rows of a table, each with its cells: how many columns they span, and what they are. */
  rowsOf(table: PDFDict): { span: number; kind: string; element: PDFDict }[][] {
    return [...this.elements(table)]
      .filter(each => each.kind === 'TR')
      .map(({ element }) =>
        this.list(element.get(name('K'))).map(kid => {
          const own = this.dict(kid)!
          return {
            span: this.number(this.dict(own.get(name('A')))?.get(name('ColSpan'))) ?? 1,
            kind: this.named(own.get(name('S')))!,
            element: own,
          }
        }),
      )
  }
}

/** Does a string of glyphs of four digits each have the first glyph? */
function wrongGlyph(hex: string): boolean {
  const digits = hex.replace(/[<>\s]/g, '')
  for (let at = 0; at < digits.length; at += 4) if (digits.slice(at, at + 4) === '0000') return true
  return false
}
