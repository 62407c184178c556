import type { PGlite } from '@electric-sql/pglite'
import fc from 'fast-check'
import { beforeAll, expect, it } from 'vitest'
import { statement } from '../../../demo/reports/statements'
import { invoiceRegister } from '../../../demo/reports/reports'
import { runReport } from '../../pages'
import { demoDatabase } from '../../support'
import type { Catalog } from '../../../core/books/catalog'
import type { ReportDefinition } from '../../../core/definition/report'
import { isTable } from '../../../core/definition/blocks/table'
import { listOfTable } from '../../../core/templates/draft'
import { decimal, decimalText } from '../../../core/value/decimal'
import { numberFormat } from '../../../core/value/numberFormat'
import { type Changes, compareRows, printedNumber } from '../../../core/compare/changes'
import { type PrintedRow, RowReader } from '../../../core/compare/rows'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
async function printed(report: ReportDefinition, answers: Record<string, string> = {}): Promise<PrintedRow[]> {
  const reader = new RowReader()
  for (const page of await runReport(db, catalog, report, answers)) reader.add(page)
  return reader.rows
}
const compare = (before: PrintedRow[], now: PrintedRow[], numbers: string[], addsUp = true): Changes =>
  compareRows(before, now, { language: 'en-GB', most: 10_000, addsUp: () => addsUp, isNumber: (_, __, cell) => numbers.includes(cell) })

it('reads printed numbers as they were written, whatever the language and pattern', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: -900_000_000, max: 900_000_000 }),
      fc.constantFrom('en-GB', 'pt-PT', 'nb', 'de-CH'),
      fc.constantFrom('#,##0.00', '#,##0.00;(#,##0.00)', '0.00', '#,##0.00 €'),
      (units, language, pattern) => {
        const text = numberFormat(pattern, language)(decimal(units, 2))
        expect(decimalText(printedNumber(text, language) ?? decimal(0)), `${text} in ${language}`).toBe(decimalText(decimal(units, 2)))
      },
    ),
  )
  for (const text of ['', 'INV-10231', '12 Oct 2026', '1,20', '4/7', 'rope']) expect(printedNumber(text, 'en-GB')).toBeUndefined()
})

it('the same rows twice differ in nothing', async () => {
  const rows = await printed(invoiceRegister(), {})
  expect(rows.length).toBeGreaterThan(100)
  expect(compare(rows, rows, [])).toMatchObject({ counts: { new: 0, gone: 0, changed: 0, same: rows.length }, rows: [], sums: [] })
})

it('finds what was added, taken away and changed in a list, and by how much it adds up to more', async () => {
  const report = listOfTable(catalog, 'receipts', 'company', 'Receipts')
  const before = await printed(report)
  const [changed, gone] = (
    await db.query<{ id: number; number: string; amount: string }>(
      'select id, number, amount::text from receipts where id not in (select receipt_id from applications where receipt_id is not ' +
        'null) order by id limit 2',
    )
  ).rows
  await db.exec(
    `begin; update receipts set amount = amount + 12.34 where id = ${changed!.id}; delete from receipts where id = ${gone!.id};
      insert into receipts select 9100000, 'REC-NEW', customer_id, branch_id, receipt_date, currency_code, rate, 77.10, 77.10 from
      receipts where id = ${changed!.id}`,
  )
  const now = await printed(report)
  await db.exec('rollback')
  const table = report.layouts[0]!.blocks.find(block => isTable(block))!
  const [column] = Object.entries(table.rows.find(row => row.kind === 'line')!.cells).find(([, cell]) => cell.text === '{{ amount }}')!
  const changes = compare(before, now, [column])
  const lines = changes.rows.filter(row => row.part === 'line')
  expect(
    lines
      .filter(row => row.kind === 'changed')
      .map(row => [row.label.includes(changed!.number), row.cells.map(({ cell, difference }) => [cell, difference])]),
  ).toEqual([[true, [[column, '12.34']]]])
  expect(lines.filter(row => row.kind === 'gone').map(row => row.label.includes(gone!.number))).toEqual([true])
  expect(lines.filter(row => row.kind === 'new').map(row => row.label.includes('REC-NEW'))).toEqual([true])
  expect(changes.sums).toEqual([
    { block: lines[0]!.block, column, difference: (12.34 + 77.1 - Number(gone!.amount)).toFixed(2).replace(/\.?0+$/, '') },
  ])
  // all others stand as they were, though most of them stand elsewhere on the pages
  expect(changes.counts.same + lines.length + changes.rows.filter(row => row.part !== 'line').length).toBe(before.length + 1)
})

it('a posting changes the lines of a statement that hold its accounts, and no other', async () => {
  const report = statement('trial')
  const answers = { period: '2026-P07' }
  const before = await printed(report, answers)
  await db.exec(
    `begin; insert into journals values (9000001, 'X', '2026-10-09', 2026, 7, 'desk', null, 'Paint', false); insert into
      journal_lines values (9000001, 1, '6150', 1, 3, 100.25, 0), (9000001, 2, '1010', 1, null, 0, 100.25)`,
  )
  const now = await printed(report, answers)
  await db.exec('rollback')
  const changes = compare(before, now, ['opening', 'debit', 'credit', 'closing'], false)
  const found = changes.rows
    .filter(row => /^(6150|1010)/.test(row.label))
    .map(row => [row.label.slice(0, 4), row.kind, Object.fromEntries(row.cells.map(each => [each.cell, each.difference]))])
  expect(found).toEqual([
    ['1010', 'changed', { credit: '100.25', closing: '-100.25' }],
    ['6150', 'changed', { debit: '100.25', closing: '100.25' }],
  ])
  expect(changes.rows.length - found.length).toBe(1)
  expect(changes.rows.find(row => !/^\d/.test(row.label))!.cells.map(each => [each.cell, each.difference])).toEqual([
    ['debit', '100.25'],
    ['credit', '100.25'],
  ])
  expect(changes.sums).toEqual([])
})
