import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { PGlite } from '@electric-sql/pglite'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { setColumnWidth, setText } from '../../../core/definition/edits/edits'
import type { ReportDefinition } from '../../../core/definition/report'
import { salesInvoice } from '../../../demo/reports/invoice'
import { demoData, demoDatabase, temporaryFolder, tester } from '../../../tests/support'
import { type Estante, openEstante } from '../../estante'
import { plainValue } from './xlsx'
import { parseDecimal } from '../../../core/value/decimal'
import type { RunOutput } from '../output'
import type { RunResult } from '../tasks'

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
async function run(
  output: Partial<RunOutput> & { format: RunOutput['format'] },
  answers: Record<string, string> = { month: '2026-09' },
  definition: ReportDefinition = salesInvoice(),
): Promise<{ file: string; result: RunResult }> {
  const file = join(folder, `out${++files}`)
  return {
    file,
    result: await estante.pool.run(tester, await estante.input(tester, 'Sales invoice', definition, answers), {
      ...output,
      file,
    } as RunOutput),
  }
}
const pagesOf = (file: string) =>
  execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8', maxBuffer: 1 << 26 })
    .split('\f')
    .slice(0, -1)
const expected = async () =>
  (
    await db.query<{ number: string; name: string; lines: string; tax: string; total: string; freight: string }>(`
  select i.number, c.name, to_char(i.lines_total, 'FM999,999,990.00') as lines, to_char(i.tax_total, 'FM999,999,990.00') as tax,
  to_char(i.total, 'FM999,999,990.00') as total, to_char(i.freight, 'FM999,999,990.00') as freight
  from invoices i join customers c on c.id = i.customer_id where i.invoice_date between '2026-09-01' and '2026-09-30' and i.kind =
  'invoice' order by i.number`)
  ).rows

describe('the PDF, read by another program', () => {
  it('has every invoice of the month once, with the totals of hand-written SQL', async () => {
    const { file, result } = await run({ format: 'pdf' })
    const pages = pagesOf(file)
    expect(pages.length).toBe(result.pages)
    const documents = await expected()
    expect(result.rows.invoice).toBe(documents.length)
    const starts = pages.map(page => /Invoice (INV-\d+) · page 1 of \d+/.exec(page)?.[1]).filter(Boolean)
    expect(starts).toEqual(documents.map(each => each.number))
    for (const each of documents) {
      const own = pages.filter(page => page.includes(`Invoice ${each.number} ·`)).join('\n')
      expect(new RegExp(`^ *Total due, \\w{3} +${each.total.replace('.', '\\.')}$`, 'm').test(own), each.number).toBe(true)
      expect(new RegExp(`Freight +${each.freight.replace('.', '\\.')}`).test(own), each.number).toBe(true)
      expect(new RegExp(`Tax +${each.tax.replace('.', '\\.')}`).test(own), each.number).toBe(true)
      if (each.name.length < 40) expect(own).toContain(each.name)
    }
  })
  it('carries sums over the page: the 120-line invoice', async () => {
    const { file } = await run({ format: 'pdf' })
    const pages = pagesOf(file).filter(page => /page \d of [3-9]/.test(page))
    expect(pages.length).toBeGreaterThan(2)
    const forward = pages.map(page => /Carried forward +([\d,.]+)/.exec(page)?.[1])
    const brought = pages.map(page => /Brought forward +([\d,.]+)/.exec(page)?.[1])
    expect(brought.slice(1)).toEqual(forward.slice(0, -1))
    const number = /Invoice (INV-\d+)/.exec(pages[0]!)![1]
    const lines = (
      await db.query<{ amount: string }>(
        'select l.amount from invoice_lines l join invoices i on i.id = l.invoice_id where i.number = $1 order by line_no',
        [number],
      )
    ).rows
    const printed = (page: string) => page.split('\n').filter(line => / [\d,]+\.\d\d$/.test(line) && /^ *[A-Z]{3}-\d{3}/.test(line)).length
    let sum = 0
    let at = 0
    for (const [index, page] of pages.entries()) {
      for (const line of lines.slice(at, (at += printed(page)))) sum += Math.round(Number(line.amount) * 100)
      if (forward[index]) expect(Number(forward[index].replaceAll(',', ''))).toBe(sum / 100)
    }
    expect(at).toBe(120)
  })
  it('prints names in Greek, Cyrillic and with markup as they are', async () => {
    for (const part of ['Ψαράδες', 'Речной', '<Rigging>']) {
      const {
        rows: [row],
      } = await db.query<{ code: string; name: string; month: string }>(
        `select c.code, c.name, to_char(i.invoice_date, 'YYYY-MM') as month from invoices i join customers c on c.id =
          i.customer_id where c.name like $1 and i.kind = 'invoice' limit 1`,
        [`%${part}%`],
      )
      const { file } = await run({ format: 'pdf' }, { month: row!.month, customer: row!.code })
      expect(pagesOf(file).join('\n')).toContain(row!.name)
    }
  })
})

describe('rows', () => {
  it('as JSON equal SQL, with all digits', async () => {
    const { file } = await run({ format: 'json' })
    const ours = JSON.parse(readFileSync(file, 'utf8')) as {
      number: string
      total: number
      lines: { amount: number | null }[]
      taxes: object[]
    }[]
    const { rows } = await db.query<{ number: string; total: string; amounts: (string | null)[]; taxes: number }>(`
      select i.number, i.total::text, array(select l.amount::text from invoice_lines l where l.invoice_id = i.id order by line_no)
      as amounts, (select count(*)::int from invoice_taxes t where t.invoice_id = i.id) as taxes
      from invoices i where i.invoice_date between '2026-09-01' and '2026-09-30' and kind = 'invoice' order by number`)
    expect(ours.map(each => [each.number, each.total, each.lines.map(line => line.amount), each.taxes.length])).toEqual(
      rows.map(row => [row.number, Number(row.total), row.amounts.map(amount => (amount === null ? null : Number(amount))), row.taxes]),
    )
    expect(readFileSync(file, 'utf8')).toMatch(/"freight":0\.00,/)
  })
  it('as CSV of a level hold every line, quoted as RFC 4180 wants', async () => {
    const { file, result } = await run({ format: 'csv', level: 'lines' }, { month: '2025-01' })
    const text = readFileSync(file, 'utf8')
    expect(text.split('\r\n')[0]).toBe(
      'invoice_id,line_no,kind,description,quantity,unit_price,amount,item.code,item.category.name,unit.code',
    )
    expect(text.trimEnd().split('\r\n').length).toBe(result.rows.lines! + 1)
    if (text.includes('"fragile"')) expect(text).toContain('""fragile""')
  })
  it('a page as SVG is well-formed, escaped, and loads nothing', async () => {
    const { file } = await run({ format: 'svg', page: 1 })
    const svg = readFileSync(file, 'utf8')
    expect(svg).toMatch(/^<svg xmlns=/)
    expect(svg).not.toMatch(/href|<script|<image/)
    expect(svg).toContain('Total due')
  })
})

describe('what cannot be run is told in a sentence', () => {
  it.each<[string, Record<string, string>, ReportDefinition, string]>([
    ['a wrong month', { month: 'soon' }, salesInvoice(), '“soon” is no month (written like 2026-10) for Month.'],
    ['a month without invoices', { month: '2020-03' }, salesInvoice(), 'No invoice in March 2020.'],
    [
      'an unknown field',
      { month: '2026-09' },
      setText(salesInvoice(), { block: 'lines', cell: 'amount', part: 'line' }, '{{ amout }}'),
      '“amount” in block “lines”: There is no field “amout” here; the nearest is “amount”.',
    ],
  ])('%s', async (_, answers, definition, sentence) => {
    await expect(run({ format: 'pdf' }, answers, definition)).rejects.toThrow(sentence)
  })
  it('a level that is not there', async () => {
    await expect(run({ format: 'csv', level: 'rows' })).rejects.toThrow('There is no level “rows”; there are invoice, lines, taxes.')
  })
  it('a table that has disappeared', async () => {
    const input = await estante.input(tester, 'Sales invoice', salesInvoice(), {})
    const catalog = { ...input.catalog, tables: input.catalog.tables.filter(table => table.name !== 'invoice_taxes') }
    await expect(
      estante.pool.run(tester, { ...input, catalog, catalogVersion: 'without taxes' }, { format: 'pdf', file: join(folder, 'x') }),
    ).rejects.toThrow('The table “invoice_taxes” of level “Taxes” is not in the source any more; restore it or choose another table.')
  })
})

it('a description of 10,000 characters is printed whole, over several pages', async () => {
  const long = Array.from({ length: 1600 }, (_, index) => `w${index}`).join(' ')
  const definition = setColumnWidth(
    setText(salesInvoice(), { block: 'lines', cell: 'description', part: 'line' }, long),
    'lines',
    'unit',
    20,
  )
  const {
    rows: [row],
  } = await db.query<{ code: string; month: string }>(
    `select c.code, to_char(i.invoice_date, 'YYYY-MM') as month from invoices i join customers c on c.id = i.customer_id join
      invoice_lines l on l.invoice_id = i.id where i.kind = 'invoice' group by i.id, c.code having count(*) = 1 limit 1`,
  )
  const { file } = await run({ format: 'pdf' }, { month: row!.month, customer: row!.code }, definition)
  const words = pagesOf(file)
    .join(' ')
    .match(/\bw\d+\b/g)!
  expect(words.slice(0, 1600)).toEqual(long.split(' '))
})

it('an invoice without lines still prints', async () => {
  const definition = salesInvoice()
  definition.dataSets[0]!.root.details[0]!.filters = ['amount > 99999999']
  const { file } = await run({ format: 'pdf' }, { month: '2026-09' }, definition)
  expect(pagesOf(file)[0]).toMatch(/Lines +0\.00/)
})

describe('the command line', () => {
  const cli = (data: string, ...args: string[]) => {
    try {
      return {
        status: 0,
        out: execFileSync(process.execPath, [join(process.cwd(), '.build/cli/estante.mjs'), ...args, '--data', data], {
          encoding: 'utf8',
          stdio: ['ignore', 'pipe', 'pipe'],
          env: { ...process.env, ESTANTE_ROOT: process.cwd(), INIT_CWD: folder },
        }),
        error: '',
      }
    } catch (error) {
      const { status, stdout, stderr } = error as { status: number; stdout: string; stderr: string }
      return { status, out: stdout, error: stderr }
    }
  }
  it('runs on the folder itself and ends with one line of JSON', () => {
    const data = demoData()
    const { out } = cli(data, 'run', 'Sales invoice', '--set', 'month=2026-10', '--format', 'pdf', '--out', 'cli.pdf')
    const line = JSON.parse(out.trim().split('\n').at(-1)!) as { report: string; pages: number; rows: object; ms: object }
    expect(Object.keys(line)).toEqual(['report', 'pages', 'rows', 'ms'])
    expect(Object.keys(line.ms)).toEqual(['fetch', 'shape', 'compose', 'write'])
    expect(pagesOf(join(folder, 'cli.pdf')).length).toBe(line.pages)
    expect(existsSync(join(data, 'holder.json'))).toBe(false)
  })
  it('lists the parameters of a report, and takes several answers with commas or a name twice', async () => {
    const data = demoData()
    const listed = cli(data, 'params', 'Invoice register')
      .out.trim()
      .split('\n')
      .map(line => JSON.parse(line) as { name: string; kind: string; narrowedBy?: string[]; choicesInAll?: number })
    expect(listed.map(each => [each.name, each.kind, each.narrowedBy])).toEqual([
      ['period', 'period', undefined],
      ['region', 'choice', undefined],
      ['town', 'choices', ['region']],
      ['customer', 'choices', ['region', 'town']],
      ['salesperson', 'choices', undefined],
    ])
    const wanted = (
      await db.query<{ number: string }>(
        "select i.number from invoices i join customers c on c.id = i.customer_id where c.code in ('C-0001', 'C-0004') and " +
          "i.invoice_date between '2026-04-01' and '2026-04-30' order by i.invoice_date, i.number",
      )
    ).rows.map(row => row.number)
    expect(wanted.length).toBeGreaterThan(2)
    for (const set of [
      ['--set', 'customer=C-0001,C-0004'],
      ['--set', 'customer=C-0001', '--set', 'customer=C-0004'],
    ]) {
      cli(data, 'run', 'Invoice register', '--set', 'period=2026-P01', ...set, '--format', 'json', '--out', 'several.json')
      expect((JSON.parse(readFileSync(join(folder, 'several.json'), 'utf8')) as { number: string }[]).map(row => row.number)).toEqual(
        wanted,
      )
    }
  })
  it.each([
    [['run', 'Sale invoice', '--out', 'x.pdf'], 'There is no report “Sale invoice”; the nearest is “Sales invoice”.'],
    [['run', 'Sales invoice', '--set', 'mnth=2026-10', '--out', 'x.pdf'], 'There is no parameter “mnth”; the nearest is “month”.'],
    [['run', 'Sales invoice', '--set', 'month', '--out', 'x.pdf'], '“--set month” has no =; write --set name=value.'],
    [
      ['run', 'Sales invoice', '--format', 'doc', '--out', 'x.pdf'],
      'There is no format “doc”; there are pdf, xlsx, csv, json, xml, parquet, csvw, html, cii, ubl, hybrid, pain, svg.',
    ],
    [['run', 'Sales invoice'], 'Say where to write with --out <file>.'],
    [['run', 'Sales invoice', '--out', 'no/such/folder/x.pdf'], 'of --out does not exist; make it first.'],
    [
      ['run', 'Invoice register', '--set', 'customer=C-0001', '--set', 'customer=C-9999', '--out', 'x.pdf'],
      '“C-9999” is not among the choices of Customer.',
    ],
    [['params', 'Nothing'], 'There is no report “Nothing”'],
    [['walk'], 'There is no command “walk”'],
  ])('%j ends with 2 and one sentence', (args, sentence) => {
    const answer = cli(join(folder, 'shared'), ...args)
    expect([answer.status, answer.out]).toEqual([2, ''])
    expect(answer.error).toContain(sentence)
    expect(answer.error.trim().split('\n').length).toBe(1)
  })
  it('is refused a folder that another process without an address holds', async () => {
    const data = demoData()
    const { takeFolder } = await import('../../store/lock')
    const held = takeFolder(data)
    const answer = cli(data, 'run', 'Sales invoice', '--out', 'x.pdf')
    held.release()
    expect(answer.status).toBe(2)
    expect(answer.error).toContain(`is in use by another Estante (process ${process.pid}`)
  })
  it('leaves no half a file behind', () => {
    writeFileSync(join(folder, 'kept.pdf'), 'before')
    mkdirSync(join(folder, 'shared'), { recursive: true })
    cli(join(folder, 'shared'), 'run', 'Sales invoice', '--set', 'month=2020-03', '--out', 'kept.pdf')
    expect(readFileSync(join(folder, 'kept.pdf'), 'utf8')).toBe('before')
  })
})

it('an average is a number of a workbook, rounded nowhere that is shown; a sum of more digits than it keeps stays text', () => {
  expect(plainValue(parseDecimal('1234.123456789012')!, '#,##0.00')).toBe(1234.123456789012)
  expect(plainValue(parseDecimal('0.333333333333')!, '0.0 %')).toBe(0.333333333333)
  expect(plainValue(parseDecimal('12345678901234567.89')!, '#,##0.00')).toBe('12345678901234567.89')
  expect(plainValue(parseDecimal('1234.123456789012')!, '#,##0.############')).toBe('1234.123456789012')
})
