import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { XMLParser } from 'fast-xml-parser'
import Papa from 'papaparse'
import type { PGlite } from '@electric-sql/pglite'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ReportDefinition } from '../../../core/definition/report'
import { customerAgeing } from '../../../demo/reports/ageing'
import { level, salesInvoice } from '../../../demo/reports/invoice'
import { demoData, demoDatabase, temporaryFolder, tester } from '../../../tests/support'
import { type Estante, openEstante } from '../../estante'
import type { RunOutput } from '../output'
import { guarded } from './rows'
import { dateFormatOf, numberFormatOf, sheetName } from './sheetFormats'
import { elementName } from './xml'

let estante: Estante
let db: PGlite
let folder: string
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
  ;({ db } = await demoDatabase())
  folder = temporaryFolder()
})
afterAll(() => estante.close())
let files = 0
async function run(definition: ReportDefinition, answers: Record<string, string>, output: Record<string, unknown>): Promise<string> {
  const file = join(folder, `out${++files}`)
  await estante.pool.run(tester, await estante.input(tester, 'Names & <figures>', definition, answers), { ...output, file } as RunOutput)
  return readFileSync(file, 'utf8')
}
const rows = async <T = Record<string, string>>(text: string) => (await db.query<T>(text)).rows
/** All customers with what their names and limits are. */
const list = (): ReportDefinition => ({
  ...salesInvoice(),
  parameters: [],
  dataSets: [
    {
      name: 'main',
      source: 'caisvelho',
      fields: {},
      root: level('buyer', 'customers', { fields: ['code', 'name', 'credit_limit'], sort: [{ field: 'code', descending: false }] }),
    },
  ],
  layouts: [{ ...salesInvoice().layouts[0]!, top: undefined, foot: undefined, blocks: [] } as never],
})

describe('CSV', () => {
  it('has every record, by another program’s reading, with separators and decimals by choice', async () => {
    const expected = (await rows('select code, name, credit_limit::text as limit from customers order by code')).map(row => [
      row.code,
      row.name,
      row.limit ?? '',
    ])
    const plain = Papa.parse<string[]>(await run(list(), {}, { format: 'csv', level: 'buyer' }), { delimiter: ',', newline: '\r\n' }).data
    expect(plain[0]).toEqual(['code', 'name', 'credit_limit'])
    expect(plain.slice(1, -1)).toEqual(expected)
    const other = await run(list(), {}, { format: 'csv', level: 'buyer', separator: 'semicolon', decimal: 'comma', mark: true })
    expect(other.charCodeAt(0)).toBe(0xfeff)
    const read = Papa.parse<string[]>(other.slice(1), { delimiter: ';', newline: '\r\n' }).data
    expect(read.slice(1, -1)).toEqual(expected.map(([code, name, limit]) => [code, name, limit!.replace('.', ',')]))
  })
  it('guards texts that a spreadsheet would run, and only those', async () => {
    const read = Papa.parse<string[]>(await run(list(), {}, { format: 'csv', level: 'buyer', guard: true }), { newline: '\r\n' }).data
    expect(read.map(row => row[1])).toContain("'=Stella Ferries")
    fc.assert(
      fc.property(fc.string(), text => {
        expect(guarded(text)).toBe('=+-@\t\r'.includes(text[0] ?? ' ') ? `'${text}` : text)
      }),
    )
    const amounts = Papa.parse<string[]>(await run(customerAgeing(), {}, { format: 'csv', level: 'items', guard: true }), {
      header: false,
      newline: '\r\n',
    }).data
    const open = amounts[0]!.indexOf('open')
    expect(amounts.slice(1, -1).some(row => /^-\d/.test(row[open]!))).toBe(true)
  })
})

it('JSON of one level holds flat records with the link to their parent', async () => {
  const found = JSON.parse(await run(salesInvoice(), { month: '2026-09' }, { format: 'json', level: 'lines' })) as Record<string, unknown>[]
  const expected = await rows(
    "select l.invoice_id as id, l.amount::text from invoice_lines l join invoices i on i.id = l.invoice_id where i.kind = 'invoice' " +
      "and i.invoice_date between '2026-09-01' and '2026-09-30' order by i.number, l.line_no",
  )
  expect(found.map(each => [each.invoice_id, each.amount])).toEqual(
    expected.map(row => [row.id, row.amount === null ? null : Number(row.amount)]),
  )
})

describe('XML', () => {
  it('begins with its own structure, which another program finds it keeps to', async () => {
    const text = await run(salesInvoice(), { month: '2026-09' }, { format: 'xml' })
    const schema = /<xs:schema[\s\S]*?<\/xs:schema>/.exec(text)![0]
    const [own, whole] = [join(folder, 'rows.xsd'), join(folder, 'rows.xml')]
    writeFileSync(own, schema)
    writeFileSync(whole, text)
    execFileSync('xmllint', ['--noout', '--schema', own, whole], { stdio: 'pipe' })
    const broken = join(folder, 'broken.xml')
    writeFileSync(broken, text.replace(/<total>[^<]*<\/total>/, '<total>much</total>'))
    expect(() => execFileSync('xmllint', ['--noout', '--schema', own, broken], { stdio: 'pipe' })).toThrow()
    const found = new XMLParser({
      ignoreAttributes: false,
      attributeNamePrefix: '',
      parseTagValue: false,
      isArray: name => name === 'invoice' || name === 'lines',
    }).parse(text) as {
      report: { name: string; invoice: { number: string; total: string; 'customer.name'?: string; lines: { amount?: string }[] }[] }
    }
    expect(found.report.name).toBe('Names & <figures>')
    const expected = await rows(
      'select i.number, i.total::text, (select count(*) from invoice_lines l where l.invoice_id = i.id)::int as n from invoices i ' +
        "where i.kind = 'invoice' and i.invoice_date between '2026-09-01' and '2026-09-30' order by i.number",
    )
    expect(found.report.invoice.map(each => [each.number, each.total, each.lines.length])).toEqual(
      expected.map(row => [row.number, row.total, row.n]),
    )
  })
  it('makes element names that XML takes', () => {
    fc.assert(
      fc.property(fc.string({ minLength: 1 }), text => {
        expect(elementName(text)).toMatch(/^[\p{L}_][\p{L}\p{N}_.-]*$/u)
      }),
    )
  })
})

it('HTML for a mail holds the page’s figures as text, escaped, and loads nothing', async () => {
  const text = await run(customerAgeing(), { asOf: '2026-10-31' }, { format: 'html' })
  expect(text).not.toMatch(/<script|<link|src=|url\(/)
  expect(text).toContain('Names &amp; &lt;figures&gt;')
  const [total] = await rows(
    "select to_char(sum(debit - credit), 'FM999,999,990.00') as balance from journal_lines where account_code = '1200'",
  )
  expect(text).toContain(`>${total!.balance}</td>`)
  const file = join(folder, 'mail.html')
  writeFileSync(file, text)
  execFileSync('xmllint', ['--html', '--noout', file], { stdio: 'pipe' })
})

describe('formats of a workbook', () => {
  it('say the same as our patterns', () => {
    expect([
      numberFormatOf('#,##0.00'),
      numberFormatOf('0.0 %'),
      numberFormatOf('#,##0.00;(#,##0.00)'),
      numberFormatOf('#,##0.00;−#,##0.00;–'),
      numberFormatOf("0.##' %'"),
    ]).toEqual(['#,##0.00', '0.0" "%', '#,##0.00;"("#,##0.00")"', '#,##0.00;"−"#,##0.00;"–"', '0.##" %"'])
    expect([dateFormatOf('d MMM y'), dateFormatOf('yyyy-MM-dd'), dateFormatOf("d 'de' MMMM"), dateFormatOf('QQQ y')]).toEqual([
      'd mmm yyyy',
      'yyyy-mm-dd',
      'd "de" mmmm',
      'yyyy-mm-dd',
    ])
  })
  it('give every sheet a name of its own that a workbook takes', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ maxLength: 60 }), { maxLength: 30 }), texts => {
        const taken = new Set<string>()
        for (const text of texts) {
          const name = sheetName(text, taken)
          expect(name.length).toBeGreaterThan(0)
          expect(name.length).toBeLessThanOrEqual(31)
          expect(name).not.toMatch(/[[\]:*?/\\]|^'|'$/)
          expect(taken.has(name.toLowerCase())).toBe(false)
          taken.add(name.toLowerCase())
        }
      }),
    )
  })
})
