import { xml, type Xml, xmlText } from '../../../core/einvoice/xml'
import { type ObjectBook, type PdfRef, Raw, writeStream } from './pdfObjects'
import { srgbProfile } from './srgb'
import { utf16 } from './pdfTags'

/** A file within a PDF that says the same as its pages, for machines (ISO 19005-3, 6.8). */
export interface AttachedFile {
  name: string
  description: string
  bytes: Uint8Array
  /** what the metadata say of it by Factur-X, section 6.1: its profile */
  profile: string
}

const moment = (at: Date): string => at.toISOString().replace(/\.\d+Z$/, 'Z')
const pdfMoment = (at: Date): string => `D:${moment(at).replace(/[-:TZ]/g, '')}Z`

interface Described {
  title: string
  language: string
  at: Date
  attached?: AttachedFile
}

const rdf = (prefix: string, address: string, inside: (Xml | undefined)[]): Xml =>
  xml('rdf:Description', inside, { 'rdf:about': '', [`xmlns:${prefix}`]: address })

/** Names of our own properties, described as PDF/A wants all that it does not know itself. */
function extension(prefix: string, address: string, schema: string, properties: readonly [string, string, string][]): Xml {
  return xml(
    'rdf:li',
    [
      xml('pdfaSchema:schema', schema),
      xml('pdfaSchema:namespaceURI', address),
      xml('pdfaSchema:prefix', prefix),
      xml('pdfaSchema:property', [
        xml(
          'rdf:Seq',
          properties.map(([name, type, description]) =>
            xml(
              'rdf:li',
              [
                xml('pdfaProperty:name', name),
                xml('pdfaProperty:valueType', type),
                xml('pdfaProperty:category', type === 'Integer' ? 'internal' : 'external'),
                xml('pdfaProperty:description', description),
              ],
              { 'rdf:parseType': 'Resource' },
            ),
          ),
        ),
      ]),
    ],
    { 'rdf:parseType': 'Resource' },
  )
}

const uaAddress = 'http://www.aiim.org/pdfua/ns/id/'
const fxAddress = 'urn:factur-x:pdfa:CrossIndustryDocument:invoice:1p0#'

/** The metadata of a PDF/A file that is tagged (ISO 16684-1; ISO 19005-2, 6.6; ISO 14289-1, 5). */
export function metadataText({ title, language, at, attached }: Described): string {
  const alternative = (text: string, tag: string) => xml('rdf:Alt', [xml('rdf:li', text, { 'xml:lang': tag })])
  const root = xml(
    'x:xmpmeta',
    [
      xml(
        'rdf:RDF',
        [
          rdf('dc', 'http://purl.org/dc/elements/1.1/', [
            xml('dc:format', 'application/pdf'),
            xml('dc:title', [alternative(title, 'x-default')]),
            xml('dc:language', [xml('rdf:Bag', [xml('rdf:li', language)])]),
          ]),
          rdf('xmp', 'http://ns.adobe.com/xap/1.0/', [
            xml('xmp:CreatorTool', 'Estante'),
            xml('xmp:CreateDate', moment(at)),
            xml('xmp:ModifyDate', moment(at)),
          ]),
          rdf('pdf', 'http://ns.adobe.com/pdf/1.3/', [xml('pdf:Producer', 'Estante')]),
          rdf('pdfaid', 'http://www.aiim.org/pdfa/ns/id/', [xml('pdfaid:part', attached ? '3' : '2'), xml('pdfaid:conformance', 'B')]),
          rdf('pdfuaid', uaAddress, [xml('pdfuaid:part', '1')]),
          attached &&
            rdf('fx', fxAddress, [
              xml('fx:DocumentType', 'INVOICE'),
              xml('fx:DocumentFileName', attached.name),
              xml('fx:Version', '1.0'),
              xml('fx:ConformanceLevel', attached.profile),
            ]),
          xml(
            'rdf:Description',
            [
              xml('pdfaExtension:schemas', [
                xml('rdf:Bag', [
                  extension('pdfuaid', uaAddress, 'PDF/UA Universal Accessibility Schema', [
                    ['part', 'Integer', 'Part of ISO 14289 that the file keeps'],
                  ]),
                  attached &&
                    extension('fx', fxAddress, 'Factur-X PDFA Extension Schema', [
                      ['DocumentFileName', 'Text', 'name of the embedded XML invoice file'],
                      ['DocumentType', 'Text', 'INVOICE'],
                      ['Version', 'Text', 'The actual version of the Factur-X XML schema'],
                      ['ConformanceLevel', 'Text', 'The conformance level of the embedded Factur-X data'],
                    ]),
                ]),
              ]),
            ],
            {
              'rdf:about': '',
              'xmlns:pdfaExtension': 'http://www.aiim.org/pdfa/ns/extension/',
              'xmlns:pdfaSchema': 'http://www.aiim.org/pdfa/ns/schema#',
              'xmlns:pdfaProperty': 'http://www.aiim.org/pdfa/ns/property#',
            },
          ),
        ],
        { 'xmlns:rdf': 'http://www.w3.org/1999/02/22-rdf-syntax-ns#' },
      ),
    ],
    { 'xmlns:x': 'adobe:ns:meta/' },
  )
  const text = xmlText(root).replace(/^<\?xml[^>]*\?>\s*/, '')
  return `<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>\n${text}\n<?xpacket end="w"?>`
}

/** Writes what PDF/A wants beside the pages: metadata, the colours that are meant, and the file within, where there is one. */
export function writeArchive(book: ObjectBook & { endMetadata?: () => void }, described: Described): void {
  const { attached, at } = described
  const { data } = book._root
  // metadata stay readable without unpacking
  const metadata = book.ref({ Type: 'Metadata', Subtype: 'XML' }) as PdfRef & { compress: boolean }
  metadata.compress = false
  metadata.end(Buffer.from(metadataText(described), 'utf8'))
  const profile = writeStream(book, { N: 3, Alternate: 'DeviceRGB' }, srgbProfile())
  const intent = new Raw(
    `<</Type/OutputIntent/S/GTS_PDFA1/OutputConditionIdentifier(sRGB IEC61966-2.1)/Info(sRGB IEC61966-2.1)/DestOutputProfile ${profile}>>`,
  )
  Object.assign(data, { Metadata: metadata, OutputIntents: [intent], ViewerPreferences: new Raw('<</DisplayDocTitle true>>') })
  if (!attached) return
  const file = writeStream(
    book,
    { Type: 'EmbeddedFile', Subtype: 'text#2Fxml', Params: new Raw(`<</ModDate(${pdfMoment(at)})/Size ${attached.bytes.length}>>`) },
    attached.bytes,
  )
  const specification = book.ref({
    Type: 'Filespec',
    // a name of plain letters is written as such: some readers know no other
    F: new Raw(`(${attached.name.replace(/[^\w.-]/g, '_')})`),
    UF: new Raw(`(${attached.name.replace(/[^\w.-]/g, '_')})`),
    Desc: new Raw(utf16(attached.description)),
    AFRelationship: 'Alternative',
    EF: new Raw(`<</F ${file}/UF ${file}>>`),
  })
  specification.end()
  data.AF = [specification]
  ;(data.Names as { data: Record<string, unknown> }).data.EmbeddedFiles = new Raw(`<</Names[${utf16(attached.name)} ${specification}]>>`)
}
