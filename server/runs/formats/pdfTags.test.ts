import { readFileSync, writeFileSync } from 'node:fs'
import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { PDFDict, PDFHexString, PDFName, PDFRawStream, PDFString } from 'pdf-lib'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readingOf } from '../../../core/draw/reading'
import { toldByLaw } from '../../../demo/reports/einvoice'
import { runPages } from '../execute'
import { RunMeter } from '../meter'
import { readyRun } from '../ready'
import { salesCharts } from '../../../demo/reports/grids'
import { salesInvoice } from '../../../demo/reports/invoice'
import { CheckedPdf } from '../../../tests/pdfChecks'
import { askCompany, demoData, demoDatabase, plainFetch, temporaryFolder, tester } from '../../../tests/support'
import { type Estante, openEstante } from '../../estante'
import type { RunOutput } from '../output'

let estante: Estante
const folder = temporaryFolder()
const file = join(folder, 'invoices.pdf')
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
  await pdfOf(salesInvoice(), file)
})
afterAll(() => estante.close())

async function pdfOf(definition: ReturnType<typeof salesInvoice>, to: string): Promise<void> {
  const input = await estante.input(tester, 'Invoices <of> September & more', definition, { month: '2026-09' })
  await estante.pool.run(tester, input, { format: 'pdf', file: to } as RunOutput)
}
const name = (text: string) => PDFName.of(text)

describe('a PDF of documents', () => {
  it('is PDF/A and tagged as far as can be told, and other programs read it whole', async () => {
    const pdf = await CheckedPdf.open(readFileSync(file))
    expect(pdf.faults()).toEqual([])
    expect(execFileSync('pdfinfo', [file], { encoding: 'utf8' })).toMatch(/Tagged: +yes/)
    expect(execFileSync('pdfinfo', [file], { encoding: 'utf8' })).toContain('Invoices <of> September & more')
  })

  it('reads table by table and cell by cell as the rows of the source', async () => {
    const pdfjs = await import('pdfjs-dist/legacy/build/pdf.mjs')
    const document = await pdfjs.getDocument({ data: new Uint8Array(readFileSync(file)), verbosity: 0 }).promise
    const { columns, count } = await askCompany(estante, {
      text: `select i.number, l.description, coalesce(to_char(l.amount, 'FM999,999,990.00'), '') as amount from company.invoice_lines l
        join company.invoices i on i.id = l.invoice_id where i.kind = 'invoice' and i.invoice_date between '2026-09-01' and
        '2026-09-30' order by i.number, l.line_no`,
      values: [],
      columns: ['number', 'description', 'amount'].map(path => ({ path, type: 'text' })),
    })
    const expected = new Map<string, string[][]>()
    for (let row = 0; row < count; row++) {
      const [number, ...cells] = columns.map(column => (column as { values: string[] }).values[row]!)
      expected.set(number!, [...(expected.get(number!) ?? []), cells])
    }
    type Node = { role?: string; type?: string; id?: string; children?: Node[] }
    const found = new Map<string, string[][]>()
    let number = ''
    for (let at = 1; at <= document.numPages; at++) {
      const page = await document.getPage(at)
      const content = await page.getTextContent({ includeMarkedContent: true })
      const texts = new Map<string, string>()
      const open: string[] = []
      for (const item of content.items as { type?: string; id?: string; str?: string }[]) {
        if (item.type?.startsWith('beginMarkedContent')) open.push(item.id ?? '')
        else if (item.type === 'endMarkedContent') open.pop()
        else if (item.str && open.at(-1)) texts.set(open.at(-1)!, `${texts.get(open.at(-1)!) ?? ''} ${item.str}`.trim())
      }
      const textOf = (node: Node): string =>
        node.type === 'content' ? (texts.get(node.id!) ?? '') : (node.children ?? []).map(textOf).filter(Boolean).join(' ')
      const visit = (node: Node): void => {
        if (node.role === 'P' || node.role === 'H1') number = /INV-\d+/.exec(textOf(node))?.[0] ?? number
        if (node.role === 'Table') {
          const rows: string[][] = []
          const inside = (each: Node): void => {
            if (each.role === 'TR') rows.push((each.children ?? []).map(textOf))
            else each.children?.forEach(inside)
          }
          inside(node)
          // lines have six columns
          for (const row of rows)
            if (row.length === 6 && row[0] !== 'Item' && row[0] !== 'Lines')
              found.set(number, [...(found.get(number) ?? []), [row[1]!, row[5]!]])
        }
        node.children?.forEach(visit)
      }
      visit((await page.getStructTree()) as Node)
    }
    const plain = (text: string) => text.replace(/\s+/g, ' ').trim()
    // lines of items and services: a remark spans the table, what is under a line is a row of its own
    for (const [own, rows] of expected) {
      const wanted = rows.filter(row => row[1]).map(row => row.map(plain).join(' | '))
      const read = (found.get(own) ?? []).map(row => row.map(plain).join(' | ')).filter(row => !row.endsWith('| '))
      expect(read, own).toEqual(wanted)
    }
    expect(expected.size).toBeGreaterThan(50)
  })

  it('is read as the text beside a page on screen: the same parts in the same order', async () => {
    const pdfjs = await import('pdfjs-dist/legacy/build/pdf.mjs')
    const definition = toldByLaw(salesInvoice(), '380')
    const to = join(folder, 'read.pdf')
    await pdfOf(definition, to)
    const document = await pdfjs.getDocument({ data: new Uint8Array(readFileSync(to)), verbosity: 0 }).promise
    const { db } = await demoDatabase()
    const input = await estante.input(tester, 'Read', definition, { month: '2026-09' })
    type Node = { role?: string; type?: string; id?: string; alt?: string; children?: Node[] }
    let at = 0
    let parts = 0
    for await (const page of runPages(readyRun(input), plainFetch(db), new RunMeter())) {
      const own = await document.getPage(++at)
      const content = await own.getTextContent({ includeMarkedContent: true })
      const texts = new Map<string, string[]>()
      const open: string[] = []
      for (const item of content.items as { type?: string; id?: string; str?: string }[]) {
        if (item.type?.startsWith('beginMarkedContent')) open.push(item.id ?? '')
        else if (item.type === 'endMarkedContent') open.pop()
        else if (item.str && open.at(-1)) texts.set(open.at(-1)!, [...(texts.get(open.at(-1)!) ?? []), item.str])
      }
      const told: [string, string][] = []
      const plain = (text: string) => text.replace(/\s+/g, '')
      const textOf = (node: Node): string =>
        node.type === 'content' ? (texts.get(node.id!) ?? []).join('') : (node.children ?? []).map(textOf).join('')
      const visit = (node: Node): void => {
        const role = node.role?.replace(/^H\d$/, 'H') ?? ''
        if (role === 'Figure') told.push([role, plain(node.alt ?? '')])
        else if (['H', 'P', 'TH', 'TD'].includes(role)) told.push([role, plain(textOf(node))])
        else node.children?.forEach(visit)
      }
      visit((await own.getStructTree()) as Node)
      const read = readingOf(page)!.flatMap((each): [string, string][] =>
        each.is === 'table'
          ? each.rows.flatMap(row => row.map((cell): [string, string] => [cell.head ? 'TH' : 'TD', plain(cell.text)]))
          : [[{ heading: 'H', paragraph: 'P', figure: 'Figure' }[each.is], plain(each.text)]],
      )
      expect(read.filter(each => each[1])).toEqual(told.filter(each => each[1]))
      parts += read.length
    }
    expect([at, parts > 1000]).toEqual([document.numPages, true])
  })

  it('names each document as a part of its own, and reads titles once however many pages a table has', async () => {
    const { columns } = await askCompany(estante, {
      text: 'select number from company.invoices i where (select count(*) from company.invoice_lines where invoice_id = i.id) > 100',
      values: [],
      columns: [{ path: 'number', type: 'text' }],
    })
    const long = salesInvoice()
    long.dataSets[0]!.root.filters = [`number = "${(columns[0] as { values: string[] }).values[0]}"`]
    const to = join(folder, 'long.pdf')
    await pdfOf(long, to)
    const pdf = await CheckedPdf.open(readFileSync(to))
    expect(pdf.faults()).toEqual([])
    const parts = [...pdf.elements()].filter(each => each.kind === 'Sect')
    expect(parts.map(each => pdf.text(each.element.get(name('T')))?.slice(0, 4))).toEqual(parts.map(() => 'INV-'))
    for (const { element } of parts) {
      const [lines] = [...pdf.elements(element)].filter(each => each.kind === 'Table')
      const rows = pdf.rowsOf(lines!.element)
      expect(rows.length).toBeGreaterThan(120)
      expect(rows.filter(row => row.some(cell => cell.kind === 'TH'))).toHaveLength(1)
    }
  })

  it('tells pictures of figures in words', async () => {
    const to = join(folder, 'chart.pdf')
    const { layouts, ...rest } = salesCharts()
    const definition = { ...rest, layouts: layouts.map(each => ({ ...each, archive: true })) }
    const input = await estante.input(tester, 'Chart', definition, { dates: '2025-01-01..2026-09-30' })
    await estante.pool.run(tester, input, { format: 'pdf', file: to } as RunOutput)
    const pdf = await CheckedPdf.open(readFileSync(to))
    expect(pdf.faults()).toEqual([])
    expect([...pdf.elements()].filter(each => each.kind === 'Figure').length).toBeGreaterThan(0)
  })

  it('is not tagged where the layout says so', async () => {
    const definition = salesInvoice()
    const to = join(folder, 'plain.pdf')
    await pdfOf({ ...definition, layouts: definition.layouts.map(each => ({ ...each, archive: false })) }, to)
    expect(execFileSync('pdfinfo', [to], { encoding: 'utf8' })).toMatch(/Tagged: +no/)
  })
})

it('an invoice within its PDF comes out as it was written, and the file says so', async () => {
  const to = join(folder, 'hybrid.zip')
  const input = await estante.input(tester, 'Invoices', toldByLaw(salesInvoice(), '380'), { month: '2026-10' })
  await estante.pool.run(tester, input, { format: 'hybrid', file: to } as RunOutput)
  await estante.pool.run(tester, input, { format: 'cii', file: `${to}.xml` } as RunOutput)
  const [pdfs, xmls] = [unzipSync(readFileSync(to)), unzipSync(readFileSync(`${to}.xml`))]
  expect(Object.keys(pdfs).map(each => each.replace('.pdf', ''))).toEqual(Object.keys(xmls).map(each => each.replace('.xml', '')))
  for (const [own, bytes] of Object.entries(pdfs).slice(0, 12)) {
    expect((await CheckedPdf.open(bytes)).faults()).toEqual([])
    const path = join(folder, own)
    writeFileSync(path, bytes)
    execFileSync('pdfdetach', ['-save', '1', '-o', `${path}.xml`, path])
    expect(readFileSync(`${path}.xml`, 'utf8')).toBe(new TextDecoder().decode(xmls[own.replace('.pdf', '.xml')]))
  }
})

describe('a defect is found:', () => {
  /** Changes the content of a page. */
  const rewrite = (pdf: CheckedPdf, change: (content: string) => string): void => {
    const page = pdf.document.getPages()[0]!.node
    const stream = pdf.document.context.stream(change(pdf.content(page)))
    page.set(name('Contents'), pdf.document.context.register(stream))
  }
  const elementOf = (pdf: CheckedPdf, kind: string): PDFDict => [...pdf.elements()].find(each => each.kind === kind)!.element
  const font = (pdf: CheckedPdf, kind: string): PDFDict =>
    pdf.document.context
      .enumerateIndirectObjects()
      .map(each => each[1])
      .find((each): each is PDFDict => each instanceof PDFDict && each.get(name('Subtype')) === name(kind))!
  const metadata = (pdf: CheckedPdf, change: (text: string) => string): void => {
    const stream = pdf.look(pdf.catalog.get(name('Metadata'))) as PDFRawStream
    const text = Buffer.from(pdf.bytes(stream)!).toString('utf8')
    const dict = PDFDict.fromMapWithContext(new Map(stream.dict.entries()), pdf.document.context)
    pdf.catalog.set(name('Metadata'), pdf.document.context.register(PDFRawStream.of(dict, Buffer.from(change(text), 'utf8'))))
  }
  const defects: [string, (pdf: CheckedPdf) => void, RegExp][] = [
    ['no language', pdf => pdf.catalog.delete(name('Lang')), /no language/],
    ['not marked', pdf => pdf.catalog.delete(name('MarkInfo')), /not marked/],
    ['the title is hidden', pdf => pdf.catalog.delete(name('ViewerPreferences')), /title is not shown/],
    ['no metadata', pdf => pdf.catalog.delete(name('Metadata')), /no metadata/],
    ['a title that is not escaped', pdf => metadata(pdf, text => text.replace('&amp;', '&').replace('&lt;', '<')), /no XML|titles/],
    ['another part of the standard', pdf => metadata(pdf, text => text.replace('<pdfaid:part>2', '<pdfaid:part>9')), /do not say PDF\/A/],
    [
      'a schema that is not described',
      pdf => metadata(pdf, text => text.replace('<pdfaSchema:prefix>pdfuaid', '<pdfaSchema:prefix>other')),
      /not described/,
    ],
    ['no meaning of colours', pdf => pdf.catalog.delete(name('OutputIntents')), /how colours are meant/],
    ['a font without its meaning', pdf => font(pdf, 'Type0').delete(name('ToUnicode')), /what its glyphs mean/],
    [
      'a font that is not embedded',
      pdf => pdf.dict(font(pdf, 'CIDFontType2').get(name('FontDescriptor')))!.delete(name('FontFile2')),
      /not embedded/,
    ],
    [
      'a glyph that says nothing',
      pdf => rewrite(pdf, text => text.replace(/<([0-9a-f]{4})([0-9a-f]*)> Tj/, '<0000$2> Tj')),
      /says nothing/,
    ],
    ['something painted outside all marks', pdf => rewrite(pdf, text => `${text}\n0 0 10 10 re f`), /neither read nor left out/],
    ['a mark that stands twice', pdf => rewrite(pdf, text => text.replace('/MCID 1>>', '/MCID 0>>')), /stands twice/],
    ['a mark that belongs to nothing', pdf => rewrite(pdf, text => text.replace('/MCID 1>>', '/MCID 99999>>')), /belongs to nothing/],
    ['a mark that does not end', pdf => rewrite(pdf, text => text.replace(/EMC(?![\s\S]*EMC)/, '')), /does not end|goes on after/],
    ['an order of tabs that is not told', pdf => pdf.document.getPages()[0]!.node.delete(name('Tabs')), /order of tabs/],
    ['a page without a key', pdf => pdf.document.getPages()[0]!.node.delete(name('StructParents')), /nothing is said/],
    ['a head without a scope', pdf => elementOf(pdf, 'TH').delete(name('A')), /no scope/],
    [
      'a row that is too short',
      pdf => (elementOf(pdf, 'TR').get(name('K')) as unknown as { remove: (at: number) => void }).remove(0),
      /columns|has it not/,
    ],
    ['a cell that is no cell', pdf => elementOf(pdf, 'TD').set(name('S'), name('Cell')), /of the kind Cell/],
    ['an element that says it is elsewhere', pdf => elementOf(pdf, 'TD').set(name('P'), pdf.catalog.get(name('Pages'))!), /in another/],
    [
      'another title',
      pdf => pdf.dict(pdf.document.context.trailerInfo.Info)!.set(name('Title'), PDFString.of('Other')),
      /titles .* differ/,
    ],
    ['no ID', pdf => delete (pdf.document.context.trailerInfo as { ID?: unknown }).ID, /no ID/],
  ]
  it.each(defects)('%s', async (_, plant, told) => {
    const pdf = await CheckedPdf.open(readFileSync(file))
    plant(pdf)
    expect(pdf.faults().join('\n')).toMatch(told)
  })
  it('a figure without words, and a link that says nothing', async () => {
    const to = join(folder, 'chart.pdf')
    const pdf = await CheckedPdf.open(readFileSync(to))
    elementOf(pdf, 'Figure').delete(name('Alt'))
    expect(pdf.faults().join('\n')).toMatch(/no alternative text/)
    const { context } = pdf.document
    const link = context.register(
      context.obj({ Type: 'Annot', Subtype: 'Link', F: 4, Rect: [0, 0, 9, 9], Contents: PDFHexString.fromText('') }),
    )
    pdf.document.getPages()[0]!.node.set(name('Annots'), context.obj([link]))
    expect(pdf.faults().join('\n')).toMatch(/link says nothing/)
    expect(pdf.faults().join('\n')).toMatch(/not read as one/)
  })
})
