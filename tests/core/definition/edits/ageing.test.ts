import { beforeAll, describe, expect, it } from 'vitest'
import type { PGlite } from '@electric-sql/pglite'
import type { Catalog } from '../../../../core/books/catalog'
import { reportModel } from '../../../../core/model/model'
import { ageingFault } from '../../../../core/model/ageing'
import { dayOf, dayText, quarterEnd, weekEnd } from '../../../../core/value/date'
import { draftLayout } from '../../../../core/templates/drafts/layout'
import { Tables } from '../../../../core/templates/drafts/tables'
import { customerAgeing } from '../../../../demo/reports/ageing'
import { demoDatabase } from '../../../support'
import { cellsOf, composeReport } from '../../../pages'
import { addAgeColumns, putAgeing, removeAgeing } from '../../../../core/definition/edits/ageing'
import { addDataSet, putTable } from '../../../../core/definition/edits/dataSets'
import { findBlock } from '../../../../core/definition/edits/edits'
import { proposeOpenItems } from '../../../../core/model/openItems'
import type { AgeingDefinition } from '../../../../core/definition/levels'
import type { ReportDefinition } from '../../../../core/definition/report'
import type { TableBlock } from '../../../../core/definition/blocks/table'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const ageing = (report: ReportDefinition, name: string) => report.dataSets[0]!.root.details[0]!.ageings!.find(each => each.name === name)!
const titles = (report: ReportDefinition, block: string) => {
  const table = findBlock(report, block) as TableBlock
  const row = table.rows.find(each => each.kind === 'titles')!
  return table.columns.map(column => row.cells[column.id]?.text ?? '')
}

describe('tables follow their ages', () => {
  it('with more, fewer and renamed columns, in every layout, down to the figures', async () => {
    const report = customerAgeing()
    const wide: AgeingDefinition = {
      ...ageing(report, 'age'),
      columns: [
        { label: 'Not due', upTo: 0 },
        { label: '1 to 30', upTo: 30 },
        { label: '31–60', upTo: 60 },
        { label: '61–90', upTo: 90 },
        { label: '91–180', upTo: 180 },
        { label: 'Older' },
      ],
    }
    const wider = putAgeing(report, 'items', wide)
    expect(titles(wider, 'ageing').slice(-6)).toEqual(wide.columns.map(column => column.label))
    expect(titles(wider, 'detail').slice(-6)).toEqual(wide.columns.map(column => column.label))
    expect(titles(wider, 'currencies')).toEqual(titles(report, 'currencies'))
    const before = await composeReport(db, catalog, report, {})
    const after = await composeReport(db, catalog, wider, {})
    const last = (findBlock(wider, 'ageing') as TableBlock).columns.slice(-2).map(column => column.id)
    const amounts = (pages: typeof after.pages, column: string) =>
      cellsOf(pages, 'ageing', 'end', column).map(text => Number(text.replaceAll(',', '').replace('−', '-')))
    expect(amounts(after.pages, last[0]!)[0]! + amounts(after.pages, last[1]!)[0]!).toBeCloseTo(amounts(before.pages, 'a4')[0]!, 2)
    const few: AgeingDefinition = { ...wide, columns: [{ label: 'Not due', upTo: 0 }, { label: 'Due' }] }
    const fewer = putAgeing(wider, 'items', few)
    expect(titles(fewer, 'ageing').slice(-2)).toEqual(['Not due', 'Due'])
    const least = await composeReport(db, catalog, fewer, {})
    expect(amounts(least.pages, 'a1')[0]!).toBeCloseTo(
      ['a1', 'a2', 'a3', 'a4'].reduce((sum, column) => sum + amounts(before.pages, column)[0]!, 0),
      2,
    )
  })
  it('puts the columns of ages into a table with their sums', () => {
    const report = customerAgeing()
    const added = addAgeColumns(report, 'detail', ageing(report, 'own'), 'open')
    const table = findBlock(added, 'detail') as TableBlock
    const at = table.columns.findIndex(column => column.id === 'open')
    const made = table.columns.slice(at + 1, at + 6).map(column => column.id)
    const text = (kind: string) => made.map(id => table.rows.find(row => row.kind === kind)!.cells[id]?.text)
    expect(text('line')).toEqual([0, 1, 2, 3, 4].map(index => `{{ own_${index} }}`))
    expect(text('groupEnd')).toEqual([0, 1, 2, 3, 4].map(index => `{{ sum(own_${index}) }}`))
    expect(text('titles')).toEqual(['Not due', '1–30', '31–60', '61–90', 'Over 90'])
  })
  it('taken out, what shows it is told as a problem', () => {
    const without = removeAgeing(customerAgeing(), 'items', 'own')
    expect(reportModel(without, catalog).trees[0]!.levels[1]!.fields.has('own_0')).toBe(false)
    expect(reportModel(without, catalog).trees[0]!.levels[1]!.fields.has('age_0')).toBe(true)
  })
})

it('edges that do not rise, or are missing, are told', () => {
  const base: AgeingDefinition = { name: 'age', amount: 'open', asOf: 'today()', dates: ['date'], direction: 'past', columns: [] }
  const fault = (...edges: (number | undefined)[]) =>
    ageingFault({ ...base, columns: edges.map((upTo, index) => ({ label: `c${index}`, ...(upTo === undefined ? {} : { upTo }) })) })
  expect(fault(0, 30, 60, undefined)).toBeUndefined()
  expect(fault(0, 30, 30, undefined)).toBe('The column “c2” ends at 30 days, which is not beyond “c1” before it.')
  expect(fault(0, undefined, 60, undefined)).toBe('The column “c1” has no upper edge; only the last column goes without one.')
})

it('weeks end on Sunday and quarters on their last day, as in the database', async () => {
  for (const day of ['2026-10-31', '2026-11-01', '2026-11-02', '2024-02-29', '1969-12-28', '2025-12-31']) {
    const [y, m, d] = day.split('-').map(Number) as [number, number, number]
    const [found] = (
      await db.query<{ week: string; quarter: string }>(
        "select (date_trunc('week', $1::date) + interval '6 days')::date::text as week, (date_trunc('quarter', $1::date) + interval " +
          "'3 months - 1 day')::date::text as quarter",
        [day],
      )
    ).rows
    expect([dayText(weekEnd(dayOf(y, m, d))), dayText(quarterEnd(dayOf(y, m, d)))]).toEqual([found!.week, found!.quarter])
  }
})

describe('open items that a source offers', () => {
  it('are those of customers and of suppliers, owed documents first', () => {
    const found = proposeOpenItems(catalog)
    expect(found.map(each => [each.party, each.applications, each.table.parts.map(part => part.table)])).toEqual([
      ['customers', 'applications', ['invoices', 'receipts']],
      ['suppliers', 'payment_applications', ['supplier_bills', 'payments']],
    ])
  })
  it.each([
    ['customers', '1200', 1],
    ['suppliers', '2100', -1],
  ] as const)('taken as proposed for %s, they tie to the control account', async (party, account, sign) => {
    const way = proposeOpenItems(catalog).find(each => each.party === party)!
    const shell: ReportDefinition = {
      ...customerAgeing(),
      dataSets: [],
      tables: [],
      layouts: [{ ...customerAgeing().layouts[0]!, blocks: [] }],
    }
    const withSet = addDataSet({ ...putTable(shell, { ...way.table, name: 'open_items', asOf: 'param.asOf' }), dataSets: [] }, 'main', {
      name: 'item',
      table: '@open_items',
      on: [],
      fields: ['number', 'date', 'open', 'booked_open'],
      related: [],
      details: [],
      filters: [],
      sort: [],
      ageings: [
        {
          name: 'age',
          amount: 'booked_open',
          asOf: 'param.asOf',
          dates: ['due_date', 'date'],
          direction: 'past',
          columns: [{ label: 'Not due', upTo: 0 }, { label: 'Due' }],
        },
      ],
    })
    const whole = { ...withSet, dataSets: withSet.dataSets.map(set => ({ ...set, source: 'caisvelho' })) }
    const model = reportModel(whole, catalog)
    const layout = draftLayout(whole, new Tables(model.catalog), model.trees[0]!.levels, 'list', 'Open', 'Standard')
    const { pages } = await composeReport(db, catalog, { ...whole, layouts: [layout] }, { asOf: '2026-06-15' })
    const table = layout.blocks.find(block => block.kind === 'table') as TableBlock
    const booked = table.columns.find(column => column.id === 'booked_open')!
    const [ledger] = (
      await db.query<{ balance: string }>(
        'select sum(debit - credit)::text as balance from journal_lines l join journals j on j.id = l.journal_id where account_code ' +
          "= $1 and posting_date <= '2026-06-15'",
        [account],
      )
    ).rows
    const printed = cellsOf(pages, table.id, 'end', booked.id)[0]!.replaceAll(',', '').replace('−', '-')
    expect(Number(printed)).toBe(Number(ledger!.balance) * sign)
    expect(table.columns.some(column => column.id === 'age_1')).toBe(true)
  })
})
