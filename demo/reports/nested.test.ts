import type { PGlite } from '@electric-sql/pglite'
import { beforeAll, expect, it } from 'vitest'
import { periodOf } from '../../core/books/calendar'
import type { Catalog } from '../../core/books/catalog'
import { parseDay } from '../../core/value/date'
import { cellsOf } from '../../tests/pages'
import { pagesOfRun, runOver } from '../../tests/runs'
import { demoDatabase } from '../../tests/support'
import { accountStatement } from './ageing'
import { customerSheets, salespersonRegisters } from './nested'
import { invoiceRegister } from './reports'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})

const number = (text: string) => Number(text.replaceAll(',', '').replace('−', '-'))

it('registers by salesperson: each has their documents, and all come to what the books say', async () => {
  const period = periodOf(catalog.calendar, parseDay('2026-09-15')!)!
  const input = runOver(catalog, salespersonRegisters(), {
    answers: { period: period.code },
    nested: { register: runOver(catalog, invoiceRegister()) },
  })
  const { pages } = await pagesOfRun(db, input, true)
  const { rows } = await db.query<{ name: string; documents: string; invoiced: string | null }>(
    `select s.name, count(i.id)::text as documents, sum(i.base_total)::text as invoiced from salespeople s
      left join invoices i on i.salesperson_id = s.id and i.invoice_date between '2026-09-01' and '2026-09-30'
      group by s.id, s.name order by s.name collate "unicode", s.id`,
  )
  expect(cellsOf(pages, 'all', 'line', 'name')).toEqual(rows.map(each => each.name))
  expect(cellsOf(pages, 'all', 'line', 'documents').map(number)).toEqual(rows.map(each => Number(each.documents)))
  expect(cellsOf(pages, 'all', 'line', 'invoiced').map(number)).toEqual(rows.map(each => Number(each.invoiced ?? 0)))
  const [all] = cellsOf(pages, 'all', 'end', 'invoiced')
  expect(number(all!)).toBeCloseTo(
    rows.reduce((sum, each) => sum + Number(each.invoiced ?? 0), 0),
    2,
  )
  const { rows: numbers } = await db.query<{ number: string }>(
    `select number from invoices where invoice_date between '2026-09-01' and '2026-09-30' and salesperson_id is not null`,
  )
  const texts = new Set(pages.flatMap(page => page.items.flatMap(item => (item.kind === 'text' ? [item.text] : []))))
  expect(numbers.filter(each => !texts.has(each.number))).toEqual([])
  // page numbers are those of the report around it
  expect(pages.map(page => page.number)).toEqual(pages.map((_, at) => at + 1))
})

it('customer sheets: who owes nothing has no page, and the others owe what their statements say', async () => {
  const input = runOver(catalog, customerSheets(), {
    answers: { salesperson: '1' },
    nested: { statement: runOver(catalog, accountStatement()) },
  })
  const { pages } = await pagesOfRun(db, input)
  const alone = await pagesOfRun(db, runOver(catalog, accountStatement()))
  const { rows } = await db.query<{ code: string; name: string }>(
    `select code, name from customers where salesperson_id = 1 and credit_limit > 0 order by name collate "unicode", code`,
  )
  const textsOf = (list: typeof pages) => list.map(page => page.items.flatMap(item => (item.kind === 'text' ? [item.text] : [])))
  const [sheets, statements] = [textsOf(pages), textsOf(alone.pages)]
  let shown = 0
  for (const { code } of rows) {
    const words = `Customer ${code}`
    const own = statements.find(page => page.includes(words))
    const sheet = sheets.find(page => page.includes(words))
    expect(!!sheet).toBe(!!own)
    if (!own || !sheet) continue
    shown++
    // the figure stands under the last of the boxes
    const open = own.slice(own.indexOf('Open in all')).at(-1)!
    expect(sheet.some(each => each.startsWith(`Owes ${open} `))).toBe(true)
  }
  expect(shown).toBeGreaterThan(2)
  expect(pages.length).toBeGreaterThanOrEqual(shown)
})
