import { momentText } from '../../../core/value/moment'
import { XMLBuilder } from 'fast-xml-parser'
import type { Writable } from 'node:stream'
import type { FieldInfo, LevelInfo } from '../../../core/formula/typed'
import { tickedFields } from '../../../core/model/levels'
import type { DataRecords } from '../../../core/value/records'
import { valueAt } from '../../../core/value/columns'
import type { Value } from '../../../core/value/value'
import { dayText } from '../../../core/value/date'
import { decimalText } from '../../../core/value/decimal'
import { put } from '../outFile'

const builder = new XMLBuilder({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  format: true,
  indentBy: '  ',
  suppressEmptyNode: true,
  processEntities: true,
})
const types = { number: 'xs:decimal', text: 'xs:string', date: 'xs:date', moment: 'xs:dateTime', boolean: 'xs:boolean' } as const

/** A name that an element can have (XML 1.0, "NCName"): paths keep their dots. */
export const elementName = (text: string) => text.replace(/[^\p{L}\p{N}_.-]/gu, '_').replace(/^[^\p{L}_]/u, '_$&')

/** Characters that XML 1.0 cannot hold (2.2, “Char”) are left out, halves of characters among them. */
export const allowed = (text: string): string =>
  plainText.test(text) ? text : text.replace(/[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\u{10000}-\u{10ffff}]/gu, '')
/** most texts have nothing that would have to be looked at sign by sign */
const plainText = /^[\t\n\r -\ud7ff\ue000-\ufffd]*$/

function written(value: Value): string {
  if (value === null) return ''
  if (typeof value === 'object') return decimalText(value)
  if (typeof value === 'bigint') return momentText(value, 'T')
  return typeof value === 'number' ? dayText(value) : allowed(String(value))
}

/**
 * Records of a data set as XML: an element per record, one inside for each field that is not empty, and one for each record under it. The
 * file begins with its own structure (W3C XML Schema 1.0).
 */
export class XmlRows {
  private begun = false
  private readonly paths: string[][]
  constructor(
    private readonly out: Writable,
    private readonly levels: readonly LevelInfo[],
    private readonly title: string,
  ) {
    this.paths = levels.map(level => tickedFields(level.definition))
  }

  async add(data: DataRecords): Promise<void> {
    await this.begin()
    const name = elementName(this.levels[0]!.name)
    for (let row = 0; row < data.levels[0]!.count; row++)
      await put(this.out, builder.build({ [name]: this.record(data, 0, row) }) as string)
  }

  async end(): Promise<void> {
    await this.begin()
    await put(this.out, '</report>\n')
  }

  private async begin(): Promise<void> {
    if (this.begun) return
    this.begun = true
    const name = allowed(this.title).replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;')
    await put(
      this.out,
      `<?xml version="1.0" encoding="UTF-8"?>\n<report name="${name}">\n${builder.build({ 'xs:schema': this.schema() }) as string}`,
    )
  }

  /** What stands in the file, as a schema of the elements after it. */
  private schema(): object {
    const element = (level: LevelInfo): object => ({
      '@name': elementName(level.name),
      '@minOccurs': '0',
      '@maxOccurs': 'unbounded',
      'xs:annotation': { 'xs:documentation': allowed(level.caption) },
      'xs:complexType': {
        'xs:sequence': {
          'xs:element': [
            ...this.paths[level.index]!.map(path => this.field(path, level.fields.get(path))),
            ...level.children.map(child => element(this.levels[child]!)),
          ],
        },
      },
    })
    return {
      '@xmlns:xs': 'http://www.w3.org/2001/XMLSchema',
      'xs:element': {
        '@name': 'report',
        'xs:complexType': {
          'xs:sequence': {
            'xs:any': { '@namespace': 'http://www.w3.org/2001/XMLSchema', '@processContents': 'skip', '@minOccurs': '0' },
            'xs:element': element(this.levels[0]!),
          },
          'xs:attribute': { '@name': 'name', '@type': 'xs:string' },
        },
      },
    }
  }

  private field(path: string, field: FieldInfo | undefined): object {
    return {
      '@name': elementName(path),
      '@type': types[field?.type ?? 'text'],
      '@minOccurs': '0',
      ...(field ? { 'xs:annotation': { 'xs:documentation': allowed(field.caption) } } : {}),
    }
  }

  private record(data: DataRecords, level: number, row: number): object {
    const { columns } = data.levels[level]!
    const fields = this.paths[level]!.flatMap((path): [string, string][] => {
      const value = valueAt(columns[path]!, row)
      return value === null ? [] : [[elementName(path), written(value)]]
    })
    const inner = this.levels[level]!.children.map((child): [string, object[]] => {
      const { starts } = data.levels[child]!
      return [
        elementName(this.levels[child]!.name),
        Array.from({ length: starts[row + 1]! - starts[row]! }, (_, index) => this.record(data, child, starts[row]! + index)),
      ]
    }).filter(([, list]) => list.length)
    return Object.fromEntries([...fields, ...inner])
  }
}
