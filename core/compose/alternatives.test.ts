import fc from 'fast-check'
import { create } from 'fontkit'
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { describe, expect, it } from 'vitest'
import type { Catalog } from '../books/catalog'
import type { PanelItem } from '../definition/blocks/panel'
import { setItem } from '../definition/edits/items'
import { formatVersion, type ReportDefinition } from '../definition/report'
import { readingOf } from '../draw/reading'
import { columnOf } from '../value/columns'
import { decimal } from '../value/decimal'
import { assembleReport } from './assemble'
import { Composer } from './flow'
import { fontFile, fontNames, lacking } from './fonts'

const column = (name: string, type: 'number' | 'text') => ({ name, type, databaseType: type, required: false })
const catalog: Catalog = {
  tables: [{ schema: 'x', name: 'heads', primaryKey: ['id'], rowEstimate: 0, columns: [column('id', 'number'), column('note', 'text')] }],
  foreignKeys: [],
}
const picture = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 8 8"><rect width="8" height="8" fill="#000000"/></svg>'
const report = (items: PanelItem[], archive = true): ReportDefinition => ({
  format: formatVersion,
  language: 'en',
  parameters: [],
  dataSets: [
    {
      name: 'main',
      source: 's',
      fields: {},
      root: { name: 'head', table: 'heads', on: [], fields: ['note'], related: [], filters: [], sort: [], details: [] },
    },
  ],
  layouts: [
    {
      name: 'Only',
      page: { size: 'A4', orientation: 'portrait', margins: { top: 40, right: 40, bottom: 40, left: 40 } },
      archive,
      blocks: [
        {
          kind: 'repeat',
          id: 'each',
          level: 'head',
          newPage: true,
          restartNumbers: true,
          after: 0,
          blocks: [{ kind: 'panel', id: 'panel', height: 60, after: 0, items }],
        },
      ],
    },
  ],
})
/** What is read of the pages of one record, and what is noticed. */
function read(definition: ReportDefinition, note: string) {
  const { tree, layout } = assembleReport(definition, catalog)
  const composer = new Composer(layout, { levels: tree.levels, parameters: {}, today: 0, boxes: true, tags: true, checksTold: true })
  const columns = { id: columnOf('number', [decimal(1)]), note: columnOf('text', [note]) }
  const pages = [...composer.add({ levels: [{ count: 1, starts: Int32Array.of(0, 1), columns }] }), ...composer.end()]
  const told = [...layout.notices, ...composer.notices()]
  return { readings: pages.flatMap(page => readingOf(page)!), told: told.map(each => [each.kind, each.cell, each.sentence]), layout }
}
const image: PanelItem = { kind: 'image', id: 'logo', x: 0, y: 0, width: 30, height: 30, svg: picture }
const text: PanelItem = { kind: 'text', id: 'text', x: 100, y: 0, width: 300, text: '{{ note }}' }

describe('a picture on a page that is read aloud', () => {
  it('that says nothing is noticed, with a remedy that makes it decoration', () => {
    const definition = report([image, text])
    const { told, layout, readings } = read(definition, 'x')
    expect(told).toEqual([
      ['alternative', 'logo', 'Nothing is read aloud for a picture; say what it shows, or that it is only decoration.'],
    ])
    expect(readings).toEqual([{ is: 'paragraph', text: 'x' }])
    const [, , change] = layout.notices[0]!.remedies[0]!.args as [string, string, Parameters<typeof setItem>[3]]
    expect(read(setItem(definition, 'panel', 'logo', change), 'x').told).toEqual([])
    // nobody reads a layout aloud that is not kept
    expect(read(report([image, text], false), 'x').told).toEqual([])
  })

  it('is read as it says, with values in it, where it stands', () => {
    const { readings, told } = read(report([{ ...image, alt: 'Plan of {{ note }}' }, text]), 'the quay')
    expect([readings, told]).toEqual([
      [
        { is: 'figure', text: 'Plan of the quay' },
        { is: 'paragraph', text: 'the quay' },
      ],
      [],
    ])
  })

  it('is read as what it holds where it is a code, unless it says otherwise', () => {
    const code: PanelItem = { kind: 'code', id: 'code', x: 0, y: 0, width: 40, height: 40, code: 'qrcode', text: 'To {{ note }}' }
    expect(read(report([code]), 'pay').readings).toEqual([{ is: 'figure', text: 'To pay' }])
    expect(read(report([{ ...code, alt: 'A code' }]), 'pay').readings).toEqual([{ is: 'figure', text: 'A code' }])
    expect(read(report([{ ...code, alt: '' }]), 'pay').readings).toEqual([])
    const payment: PanelItem = {
      kind: 'payment',
      id: 'pay',
      x: 0,
      y: 0,
      width: 80,
      height: 80,
      terms: { payee: 'note', payeeAccount: '"PT50000201231234567890154"', amount: '12.5', currency: '"EUR"' },
    }
    expect(read(report([payment]), 'Cais Velho').readings).toEqual([{ is: 'figure', text: 'Payment: Cais Velho, 12.5 EUR' }])
    const { told, readings } = read(report([{ ...payment, terms: { ...payment.terms, currency: '"GBP"' } }]), 'Cais Velho')
    expect(readings).toEqual([])
    expect(told[0]![2]).toContain('a payment QR is for EUR only')
  })
})

describe('signs that the paper has no glyphs for', () => {
  it('are noticed where they stand, each once', () => {
    const { told } = read(report([text]), 'Rope 字, chain 字 and ⚓')
    expect(told).toEqual([['signs', 'text', 'The paper’s fonts have no “字”; it is printed as a question mark.']])
    expect(read(report([text]), 'Ψαράδες, übergroß − “x” €').told).toEqual([])
  })

  it('are those that the font files lack', () => {
    const files = createRequire(import.meta.url)
    for (const font of fontNames) {
      const file = create(readFileSync(files.resolve(fontFile(font))))
      fc.assert(
        fc.property(fc.integer({ min: 0x20, max: 0xffff }), code => {
          if (code >= 0xd800 && code < 0xe000) return
          const sign = String.fromCharCode(code)
          if (sign === '\u2212') return
          expect([sign, lacking(sign, font) === undefined]).toEqual([sign, file.hasGlyphForCodePoint(code)])
        }),
        { numRuns: 400 },
      )
    }
  })
})
