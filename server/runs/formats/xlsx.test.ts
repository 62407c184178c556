import { execFileSync } from 'node:child_process'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import { XMLParser } from 'fast-xml-parser'
import Papa from 'papaparse'
import type { PGlite } from '@electric-sql/pglite'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ReportDefinition } from '../../../core/definition/report'
import { customerAgeing, supplierAgeing } from '../../../demo/reports/ageing'
import { openOrderLines, reorderList, spendBySupplier } from '../../../demo/reports/buying'
import { topCustomers } from '../../../demo/reports/lists'
import { invoiceRegister, twoLayouts } from '../../../demo/reports/reports'
import { statement } from '../../../demo/reports/statements'
import { demoData, demoDatabase, temporaryFolder, tester } from '../../../tests/support'
import { type Estante, openEstante } from '../../estante'
import type { RunOutput } from '../output'

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
async function workbook(
  definition: ReportDefinition,
  answers: Record<string, string> = {},
  more: Partial<RunOutput & { format: 'xlsx' }> & { layout?: string } = {},
): Promise<string> {
  const file = join(folder, `book${++files}.xlsx`)
  const { layout, ...output } = more
  await estante.pool.run(tester, { ...(await estante.input(tester, 'Test report', definition, answers)), ...(layout ? { layout } : {}) }, {
    format: 'xlsx',
    ...output,
    file,
  } as RunOutput)
  return file
}
const rows = async <T = Record<string, string>>(text: string) => (await db.query<T>(text)).rows

const parser = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '',
  parseTagValue: false,
  parseAttributeValue: false,
  trimValues: false,
  isArray: name => ['row', 'c', 'sheet', 'definedName', 'xf', 'numFmt'].includes(name),
})
interface Place {
  value: string | number | null
  formula?: string
  format: string
  level: number
}
/** What stands in a workbook, read from its parts without the library that wrote it. */
function read(file: string): {
  sheets: Map<string, { cells: Map<string, Place>; rows: number; text: string }>
  names: Map<string, string>
} {
  const parts = unzipSync(readFileSync(file))
  const xml = (name: string) => parser.parse(strFromU8(parts[name]!)) as unknown
  const book = (
    xml('xl/workbook.xml') as {
      workbook: {
        sheets: { sheet: { name: string; sheetId: string; 'r:id': string }[] }
        definedNames?: { definedName: { name: string; '#text': string }[] }
      }
    }
  ).workbook
  const styles = (
    xml('xl/styles.xml') as {
      styleSheet: { numFmts?: { numFmt: { numFmtId: string; formatCode: string }[] }; cellXfs: { xf: { numFmtId: string }[] } }
    }
  ).styleSheet
  const formats = new Map((styles.numFmts?.numFmt ?? []).map(each => [each.numFmtId, each.formatCode]))
  const sheets = new Map(
    book.sheets.sheet.map(({ name }, index) => {
      const text = strFromU8(parts[`xl/worksheets/sheet${index + 1}.xml`]!)
      const sheet = (
        parser.parse(text) as {
          worksheet: {
            sheetData: {
              row?: {
                r: string
                outlineLevel?: string
                c?: {
                  r: string
                  t?: string
                  s?: string
                  v?: string
                  f?: string | { '#text': string }
                  is?: { t: string | { '#text': string } }
                }[]
              }[]
            }
          }
        }
      ).worksheet
      const list = sheet.sheetData.row ?? []
      return [
        name,
        {
          text,
          rows: list.length,
          cells: new Map(
            list.flatMap(row =>
              (row.c ?? []).map((cell): [string, Place] => {
                const inline = cell.is?.t
                const written =
                  cell.t === 'inlineStr'
                    ? ((typeof inline === 'object' ? inline['#text'] : inline) ?? '')
                    : cell.t === 'str'
                      ? (cell.v ?? '')
                      : cell.v === undefined
                        ? null
                        : Number(cell.v)
                return [
                  cell.r,
                  {
                    value: written,
                    ...(cell.f === undefined ? {} : { formula: typeof cell.f === 'object' ? cell.f['#text'] : cell.f }),
                    format: formats.get(styles.cellXfs.xf[Number(cell.s ?? 0)]!.numFmtId) ?? '',
                    level: Number(row.outlineLevel ?? 0),
                  },
                ]
              }),
            ),
          ),
        },
      ] as const
    }),
  )
  return { sheets, names: new Map((book.definedNames?.definedName ?? []).map(each => [each.name, each['#text']])) }
}
/**
 * The sheets as LibreOffice sees them once it has worked out every formula by itself: the values stored with the formulas are taken out
 * first.
 */
function recalculated(file: string): Map<string, string[][]> {
  const parts = unzipSync(readFileSync(file))
  const bare = Object.fromEntries(
    Object.entries(parts).map(([name, bytes]) => [
      name,
      name.startsWith('xl/worksheets/') ? strToU8(strFromU8(bytes).replace(/(<f>[^<]*<\/f>)<v>[^<]*<\/v>/g, '$1')) : bytes,
    ]),
  )
  const copy = join(folder, `bare${++files}.xlsx`)
  writeFileSync(copy, zipSync(bare))
  const out = join(folder, `csv${files}`)
  mkdirSync(out)
  execFileSync(
    'soffice',
    [
      `-env:UserInstallation=file://${folder}/office`,
      '--headless',
      '--convert-to',
      'csv:Text - txt - csv (StarCalc):44,34,76,1,,0,false,false,false,false,false,-1',
      '--outdir',
      out,
      copy,
    ],
    { stdio: 'pipe', timeout: 120_000 },
  )
  const names = [...read(file).sheets.keys()]
  return new Map(names.map(name => [name, Papa.parse<string[]>(readFileSync(join(out, `bare${files}-${name}.csv`), 'utf8')).data]))
}
const place = (reference: string): [number, number] => {
  const match = /^([A-Z]+)(\d+)$/.exec(reference)!
  return [Number(match[2]) - 1, [...match[1]!].reduce((sum, letter) => sum * 26 + letter.charCodeAt(0) - 64, 0) - 1]
}

describe('opened by another program, every total comes out as ours', () => {
  it.each([
    ['customer ageing, every document', customerAgeing, {}, { layout: 'Every document' }, 400],
    ['supplier ageing, summary', supplierAgeing, {}, {}, 20],
    ['invoice register', invoiceRegister, { period: '2026-P04' }, {}, 10],
    ['reorder list', reorderList, {}, {}, 20],
    ['open order lines', openOrderLines, {}, {}, 2],
    ['top customers', topCustomers, {}, {}, 1],
    ['sales invoices, one sheet', twoLayouts, { month: '2026-09' }, {}, 60],
  ] as const)(
    '%s',
    async (_, definition, answers, more, least) => {
      const file = await workbook(definition(), answers, more)
      const { sheets } = read(file)
      const [name, sheet] = [...sheets][0]!
      const formulas = [...sheet.cells].filter(([, cell]) => cell.formula !== undefined)
      expect(formulas.length).toBeGreaterThanOrEqual(least)
      const found = recalculated(file).get(name)!
      for (const [reference, cell] of formulas) {
        const [row, column] = place(reference)
        expect(Number(found[row]![column]), `${reference} ${cell.formula}`).toBeCloseTo(cell.value as number, 6)
      }
      for (const [reference, cell] of sheet.cells) {
        // dates and shares are printed there in words of their own
        if (typeof cell.value !== 'number' || /[dy%]/.test(cell.format) || cell.formula) continue
        const [row, column] = place(reference)
        expect(Number(found[row]![column]), reference).toBeCloseTo(cell.value, 6)
      }
    },
    120_000,
  )
})

describe('the workbook of the ageing', () => {
  it(
    'has the figures of SQL as real numbers and dates, an outline, frozen titles, print titles, names for totals, and what was ' + 'asked',
    async () => {
      const file = await workbook(customerAgeing(), { asOf: '2026-08-31' }, { layout: 'Every document', rows: 'items' })
      const { sheets, names } = read(file)
      expect([...sheets.keys()]).toEqual(['Test report', 'Rows Open items', 'Parameters'])
      const { cells, text } = sheets.get('Test report')!
      const all = [...cells.values()]
      const firstDay = (
        await rows(
          "select (min(date) - '1899-12-30'::date)::text as serial from (select invoice_date as date from invoices where number = " +
            "'INV-10014') as one",
        )
      )[0]!.serial
      expect(all.some(cell => cell.format === 'd mmm yyyy' && cell.value === Number(firstDay))).toBe(true)
      expect(all.some(cell => cell.format.startsWith('#,##0.00') && cell.level === 1)).toBe(true)
      expect(text).toMatch(/<pane [^>]*state="frozen"/)
      expect(text).toMatch(/<pageSetup [^>]*orientation="landscape"/)
      expect(names.get('_xlnm.Print_Titles')).toBeDefined()
      const total = names.get('detail_total_total')!
      const [, reference] = total.split('!')
      const booked = cells.get(reference!.replaceAll('$', ''))!
      const [expected] = await rows(`select round(sum(open), 2)::text as total from (
      select round((i.total - coalesce((select sum(a.amount) from applications a where a.invoice_id = i.id and a.applied_on <=
      '2026-08-31'), 0) + coalesce((select sum(a.amount) from applications a where a.credit_note_id = i.id and a.applied_on <=
      '2026-08-31'), 0)) * (select e.rate from exchange_rates e where e.currency_code = i.currency_code and e.rate_date <=
      '2026-08-31' order by rate_date desc limit 1), 2) as open from invoices i where i.invoice_date <= '2026-08-31'
      union all select round((-r.amount + coalesce((select sum(a.amount) from applications a where a.receipt_id = r.id and
      a.applied_on <= '2026-08-31'), 0)) * (select e.rate from exchange_rates e where e.currency_code = r.currency_code and
      e.rate_date <= '2026-08-31' order by rate_date desc limit 1), 2) from receipts r where r.receipt_date <= '2026-08-31') as items`)
      expect(booked.value).toBe(Number(expected!.total))
      expect(booked.formula).toMatch(/^SUBTOTAL\(9,[A-Z]+\d+:[A-Z]+\d+\)$/)
      const facts = [...sheets.get('Parameters')!.cells.values()].map(cell => cell.value)
      expect(facts).toEqual(expect.arrayContaining(['As of', '31 Aug 2026', 'Aged by', 'due date', 'Source', 'caisvelho', 'Run at']))
      const lines = sheets.get('Test report')!
      expect(sheets.get('Rows Open items')!.rows - 1).toBe(
        [...lines.cells].filter(([reference_, cell]) => /^[A-Z]+\d+$/.test(reference_) && cell.format === 'd mmm yyyy').length / 2,
      )
    },
  )
  it('keeps a name that begins with = as text', async () => {
    const { sheets } = read(await workbook(customerAgeing(), {}, { layout: 'Every document' }))
    const found = [...sheets.get('Test report')!.cells.values()].filter(
      cell => typeof cell.value === 'string' && cell.value.includes('=Stella Ferries'),
    )
    expect(found.length).toBeGreaterThan(0)
    for (const cell of found) expect(cell.formula).toBeUndefined()
  })
})

it('a sheet for each document, with its page top, and one for each group', async () => {
  const numbers = (
    await rows("select number from invoices where kind = 'invoice' and invoice_date between '2026-09-01' and '2026-09-30' order by number")
  ).map(row => row.number!)
  const documents = read(await workbook(twoLayouts(), { month: '2026-09' }, { sheets: 'documents' })).sheets
  const names = [...documents.keys()].slice(0, -1)
  expect(names).toHaveLength(numbers.length)
  names.forEach((name, index) => expect(name.startsWith(numbers[index]!)).toBe(true))
  expect([...documents.get(names[0]!)!.cells.values()].some(cell => cell.value === 'Cais Velho')).toBe(true)
  const branches = await rows(
    "select b.name, sum(i.total) from invoices i join branches b on b.id = i.branch_id where invoice_date between '2026-07-01' and " +
      "'2026-07-31' group by b.name order by b.name",
  )
  const groups = read(await workbook(invoiceRegister(), { period: '2026-P04' }, { sheets: 'groups' })).sheets
  expect([...groups.keys()]).toEqual([...branches.map(row => row.name), 'Test report', 'Parameters'])
})

it('a summary without lines adds up its group rows, a share stays a value', async () => {
  const { sheets } = read(await workbook(spendBySupplier(), { dates: '2025-11-01..2026-10-31' }))
  const cells = [...sheets.get('Test report')!.cells.values()]
  expect(cells.filter(cell => cell.formula).length).toBe(1)
  const percent = cells.filter(cell => cell.format.includes('%'))
  expect(percent.length).toBe(12)
  expect(percent.every(cell => !cell.formula)).toBe(true)
})

describe('the workbook of a statement', () => {
  const opened = (kind: 'income' | 'balance', scale: 'units' | 'thousands') =>
    statement(kind, block => ({
      ...block,
      scale,
      decimals: scale === 'units' ? 2 : 0,
      lines: block.lines.map(line =>
        line.kind === 'accounts' ? { ...line, expand: line.id === 'operatingExpenses' ? 'tree' : true } : line,
      ),
    }))
  it.each([
    ['income', 'units', 20],
    ['income', 'thousands', 20],
    ['balance', 'units', 10],
    ['balance', 'thousands', 10],
  ] as const)(
    '%s in %s: a column for each of its own, accounts that fold, and results that LibreOffice works out to our figures',
    async (kind, scale, least) => {
      const file = await workbook(opened(kind, scale), { period: '2026-P07' })
      const sheet = read(file).sheets.get('Test report')!
      const title = kind === 'income' ? 'Oct 2026' : '31 Oct 2026'
      expect([...sheet.cells.values()].map(cell => cell.value)).toEqual(expect.arrayContaining([title]))
      const formulas = [...sheet.cells].filter(([, cell]) => cell.formula !== undefined)
      expect(formulas.length).toBeGreaterThanOrEqual(least)
      expect(new Set(formulas.map(([reference]) => reference.replace(/\d+/, ''))).size).toBeGreaterThanOrEqual(kind === 'income' ? 3 : 2)
      expect(Math.max(...[...sheet.cells.values()].map(cell => cell.level))).toBe(kind === 'income' ? 3 : 1)
      const found = recalculated(file).get('Test report')!
      for (const [reference, cell] of formulas) {
        const [row, column] = place(reference)
        // nothing is printed as a dash
        expect(found[row]![column] === '–' ? 0 : Number(found[row]![column]), `${reference} ${cell.formula}`).toBeCloseTo(
          cell.value as number,
          6,
        )
      }
      if (scale === 'thousands') return
      const figure = Number(
        (
          await rows(
            kind === 'income'
              ? 'select sum(l.credit - l.debit)::text as value from journal_lines l join journals j on j.id = l.journal_id join ' +
                  "accounts a on a.code = l.account_code where not j.is_closing and a.type in ('income', 'expense') and " +
                  'j.fiscal_year_id = 2026 and ' +
                  'j.period_number = 7'
              : 'select sum(l.debit - l.credit)::text as value from journal_lines l join accounts a on a.code = l.account_code ' +
                  "where a.type = 'asset'",
          )
        )[0]!.value,
      )
      expect(formulas.some(([, cell]) => Math.abs((cell.value as number) - figure) < 1e-9)).toBe(true)
    },
    120_000,
  )
})
