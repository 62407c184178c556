import { execFileSync } from 'node:child_process'
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import jsQR from 'jsqr'
import { validate } from 'node-iso11649'
import { XMLParser } from 'fast-xml-parser'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { setPaymentGroup, setPayments, setPaymentTerm } from '../../core/definition/edits/payments'
import type { ReportDefinition } from '../../core/definition/report'
import { proposePayments } from '../../core/templates/payments'
import type { TableBlock } from '../../core/definition/blocks/table'
import { assembleReport } from '../../core/compose/assemble'
import { parseDecimal, add, decimalText, zero, trim } from '../../core/value/decimal'
import { paymentsDue } from '../../demo/reports/ageing'
import { toldByLaw } from '../../demo/reports/einvoice'
import { salesInvoice } from '../../demo/reports/invoice'
import { askCompany, demoData, temporaryFolder, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import type { RunOutput } from './output'

let estante: Estante
const folder = temporaryFolder()
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

const answers = { asOf: '2026-09-30', until: '2026-10-31' }
let files = 0
async function pain(definition: ReportDefinition, version?: '09' | '03', own: Record<string, string> = answers): Promise<string> {
  const file = join(folder, `${++files}.xml`)
  const output = { format: 'pain', file, ...(version ? { version } : {}) } as RunOutput
  await estante.pool.run(tester, await estante.input(tester, 'Payments due', definition, own), output)
  return readFileSync(file, 'utf8')
}
const refusal = (definition: ReportDefinition) =>
  pain(definition).then(
    () => '',
    (error: Error) => error.message,
  )
const texts = (xml: string, name: string): string[] =>
  [...xml.matchAll(new RegExp(`<${name}(?: [^>]*)?>([^<]*)<`, 'g'))].map(match => match[1]!)
const one = (xml: string, path: string): string =>
  execFileSync('xmllint', ['--xpath', `string(${path})`, '-'], { input: xml, encoding: 'utf8' }).trim()
const total = (amounts: readonly string[]) => decimalText(trim(amounts.map(each => parseDecimal(each)!).reduce(add, zero)))
const table = (definition: ReportDefinition) => definition.layouts[0]!.blocks.find(each => each.kind === 'table') as TableBlock

/** What is open of each supplier, by hand: bills due, less what was paid or credited until the day. */
const byHand = `with settled as (
    select bill_id as id, sum(-amount) as amount from company.payment_applications
    where applied_on <= $1::date and bill_id is not null group by 1
    union all
    select credit_id, sum(amount) from company.payment_applications where applied_on <= $1::date and credit_id is not null group by 1),
  bills as (
    select b.supplier_id, b.currency_code, b.supplier_number,
      b.total + coalesce((select sum(s.amount) from settled s where s.id = b.id), 0) as open,
      coalesce(b.due_date, b.bill_date + t.days, b.bill_date) as due
    from company.supplier_bills b left join company.payment_terms t on t.code = b.payment_term_code where b.bill_date <= $1::date),
  money as (
    select p.supplier_id, p.currency_code, '' as supplier_number,
      -p.amount + coalesce((select sum(a.amount) from company.payment_applications a
        where a.payment_id = p.id and a.applied_on <= $1::date), 0),
      p.payment_date from company.payments p where p.payment_date <= $1::date),
  items as (select * from bills union all select * from money)
  select s.name, replace(s.bank_account, ' ', '') as account, sum(i.open)::text as amount, min(i.currency_code)::text as currency
  from items i join company.suppliers s on s.id = i.supplier_id where i.open <> 0 and i.due <= $2::date
  group by s.id having sum(i.open) > 0 order by s.name`

describe('what is to be paid, for a bank', () => {
  it('is a transfer for each supplier with what is open, valid by the schemas', async () => {
    const xml = await pain(paymentsDue())
    const { columns, count } = await askCompany(estante, {
      text: byHand,
      values: [answers.asOf, answers.until],
      columns: ['name', 'account', 'amount', 'currency'].map(path => ({ path, type: 'text' })),
    })
    const rows = Array.from({ length: count }, (_, row) => columns.map(column => (column as { values: string[] }).values[row]!))
    expect(rows.length).toBeGreaterThan(20)
    const accounts = texts(xml, 'IBAN')
    const told = [...xml.matchAll(/<CdtTrfTxInf>[^]*?<\/CdtTrfTxInf>/g)].map(([part]) => [
      (new XMLParser({ processEntities: true }).parse(part) as { CdtTrfTxInf: { Cdtr: { Nm: string } } }).CdtTrfTxInf.Cdtr.Nm,
      texts(part, 'IBAN')[0]!,
      texts(part, 'InstdAmt')[0]!,
      /Ccy="(...)"/.exec(part)![1]!,
    ])
    const sorted = (list: string[][]) => list.map(each => each.join(' · ')).sort()
    expect(sorted(told)).toEqual(sorted(rows))
    expect(accounts.length).toBe(told.length + texts(xml, 'PmtInfId').length)
    expect(one(xml, '//*[local-name()="GrpHdr"]/*[local-name()="NbOfTxs"]')).toBe(String(told.length))
    expect(one(xml, '//*[local-name()="GrpHdr"]/*[local-name()="CtrlSum"]')).toBe(total(told.map(each => each[2]!)))
    // each batch is of one currency, and its count and sum are those of its transfers
    for (const [batch] of xml.matchAll(/<PmtInf>[^]*?<\/PmtInf>/g)) {
      expect(new Set([...batch.matchAll(/Ccy="(...)"/g)].map(match => match[1])).size).toBe(1)
      expect(texts(batch, 'NbOfTxs')).toEqual([String(texts(batch, 'EndToEndId').length)])
      expect(texts(batch, 'CtrlSum')).toEqual([total(texts(batch, 'InstdAmt'))])
      expect(batch.includes('<Cd>SEPA</Cd>')).toBe(batch.includes('Ccy="EUR"'))
    }
    expect(new Set(texts(xml, 'EndToEndId')).size).toBe(told.length)
  })

  it('is valid by the schemas of ISO 20022 that can be had', async () => {
    const schemas = '.build/schemas/usr/lib/python3/dist-packages/trytond/modules/account_payment_sepa/tests'
    const valid = (name: string, xml: string) => {
      const file = join(folder, 'valid.xml')
      writeFileSync(file, xml)
      return execFileSync('xmllint', ['--noout', '--nonet', '--schema', `${schemas}/pain.001.001.${name}.xsd`, file], { stdio: 'pipe' })
    }
    const older = await pain(paymentsDue(), '03')
    valid('03', older)
    expect(() => valid('03', older.replace(/<CtrlSum>[^]*?<\/CtrlSum>/, '<CtrlSum>much</CtrlSum>'))).toThrow()
    // of version 09 no schema is to be had: all but its day of execution is as in 05
    const newer = await pain(paymentsDue())
    valid(
      '05',
      newer
        .replace('pain.001.001.09', 'pain.001.001.05')
        .replace(/<ReqdExctnDt>\s*<Dt>([^<]*)<\/Dt>\s*<\/ReqdExctnDt>/g, '<ReqdExctnDt>$1</ReqdExctnDt>'),
    )
    expect(texts(newer, 'InstdAmt')).toEqual(texts(older, 'InstdAmt'))
  })

  it('is proposed by the names of its fields, and can be a transfer for each line', async () => {
    const report = paymentsDue()
    const { tree } = assembleReport(report, (await estante.sources.catalog(tester, 'caisvelho')).catalog)
    const proposed = proposePayments(table(report), tree.levels[0]!)
    expect(proposed).toEqual(table(report).payments)
    const each = setPayments(report, 'due', proposePayments({ ...table(report), groups: [] }, tree.levels[0]!))
    expect(table(each).payments).toMatchObject({ terms: { amount: 'open', currency: 'currency_code', about: 'their_number' } })
    expect(table(setPaymentGroup(report, 'due', undefined)).payments!.group).toBeUndefined()
  })

  it.each([
    ['payeeAccount', '"PT50 0000"', /goes to “PT500000”, which is no IBAN/],
    ['payerAccount', '"12345"', /comes from “12345”, which is no IBAN/],
    ['payeeBank', '"NOBANK"', /names the bank “NOBANK”, which is no BIC/],
    ['amount', '-sum(open)', /only amounts above zero are paid/],
    ['amount', 'sum(open) / 7', /more decimals than its currency/],
    ['amount', 'sum(open) + 0.01', /stands nowhere on the pages/],
    ['amount', 'sum(open) * 100000000', /more than one payment can be/],
    ['amount', '', /Amount to pay is empty of a payment to/],
    ['currency', '"Euro"', /is in “Euro”, which is no code of a currency/],
    ['payee', '"A very long name that goes on and on, and on, and on, until there is no room left"', /more than 70 characters/],
    ['about', `"${'0123456789 '.repeat(13)}"`, /more than 140 characters/],
    ['reference', '"RF00123"', /is none of ISO 11649/],
    ['id', '"a|b"', /which banks do not take/],
    ['on', '"tomorrow"', /Day of execution must be a date/],
  ] as const)('is refused with a sentence where %s is %s', async (term, formula, sentence) => {
    const definition = setPaymentTerm({ ...paymentsDue(), formats: [] }, 'due', term, formula)
    expect(await refusal(definition)).toMatch(sentence)
  })

  it('is refused where the lines of one payment are not of one payee, or one currency', async () => {
    const report = paymentsDue()
    const due = table(report)
    const byCurrency = { ...due, groups: due.groups.map(group => ({ ...group, by: 'currency_code' })) }
    const blocks = report.layouts[0]!.blocks.map(block => (block.id === due.id ? byCurrency : block))
    const mixed = { ...report, layouts: [{ ...report.layouts[0]!, blocks }] }
    expect(await refusal(mixed)).toMatch(/“(Who is paid|To account \(IBAN\))” is not the same in all lines of a payment to /)
    const supplier = setPaymentTerm(paymentsDue(), 'due', 'on', 'due_date')
    expect(await refusal(supplier)).toMatch(/“Day of execution” is not the same in all lines|Day of execution is empty/)
  })

  it('is refused where nothing is told as payments', async () => {
    expect(await refusal(setPayments(paymentsDue(), 'due', undefined))).toMatch(/No table of this layout is told as payments/)
  })
})

describe('the code on an invoice by which it is paid', () => {
  it('holds what is due, as another program reads it off the page; where nothing is to be paid in euros, there is none', async () => {
    const file = join(folder, 'invoices.pdf')
    const report = toldByLaw(salesInvoice(), '380')
    await estante.pool.run(tester, await estante.input(tester, 'Sales invoice', report, { month: '2026-09' }), { format: 'pdf', file })
    const { columns, count } = await askCompany(estante, {
      text: `select number, total::text as total, currency_code::text as currency, (select iban from company.companies limit 1) as iban
        from company.invoices where kind = 'invoice' and invoice_date between '2026-09-01' and '2026-09-30'`,
      values: [],
      columns: ['number', 'total', 'currency', 'iban'].map(path => ({ path, type: 'text' })),
    })
    const found = new Map(
      Array.from({ length: count }, (_, row) => columns.map(column => (column as { values: string[] }).values[row]!)).map(each => [
        each[0]!,
        each,
      ]),
    )
    execFileSync('pdftoppm', ['-r', '144', '-gray', '-l', '40', file, join(folder, 'page')])
    const pages = readdirSync(folder)
      .filter(name => name.startsWith('page-'))
      .sort()
    let read = 0
    for (const [at, page] of pages.entries()) {
      const text = execFileSync('pdftotext', ['-f', String(at + 1), '-l', String(at + 1), file, '-'], { encoding: 'utf8' })
      const code = codeIn(readFileSync(join(folder, page)))
      const [number, total, currency, iban] = [...found.values()].find(each => text.includes(each[0]!))!
      const last = text.includes('Total due')
      expect([page, code !== undefined]).toEqual([page, last && currency === 'EUR' && Number(total) > 0])
      if (!code) continue
      read++
      const lines = code.split('\n')
      expect([lines[0], lines[6], lines[7], validate(lines[9]!), lines[9]!.slice(4)]).toEqual([
        'BCD',
        iban!.replaceAll(' ', ''),
        `EUR${total}`,
        true,
        number!.toUpperCase().replace(/[^A-Z0-9]/g, ''),
      ])
      expect(text).toContain(lines[9])
    }
    expect(read).toBeGreaterThan(15)
  })
})

/** The QR code of a page in shades of grey (PGM): what it holds. */
function codeIn(pgm: Buffer): string | undefined {
  const [head, width, height] = /^P5\s+(\d+)\s+(\d+)\s+255\s/.exec(pgm.toString('latin1', 0, 40))!
  const grey = pgm.subarray(head.length)
  const colours = new Uint8ClampedArray(grey.length * 4).fill(255)
  grey.forEach((shade, at) => colours.fill(shade, at * 4, at * 4 + 3))
  return jsQR(colours, Number(width), Number(height))?.data
}
