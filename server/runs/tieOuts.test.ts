import { schema as sourceSchema } from '../../demo/source'
import type { PGlite } from '@electric-sql/pglite'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../core/books/catalog'
import type { DataRecords } from '../../core/value/records'
import type { TieFigure, TieOut } from '../../core/definition/tieOuts'
import type { TiesBlock } from '../../core/definition/blocks/ties'
import type { ReportDefinition } from '../../core/definition/report'
import { suggestTieOuts } from '../../core/tieout/suggest'
import { customerAgeing } from '../../demo/reports/ageing'
import { clock } from '../../demo/company/clock'
import { demoReports } from '../../demo/reports/reports'
import { salesInvoice } from '../../demo/reports/invoice'
import { statement } from '../../demo/reports/statements'
import { nestedOf, runOver } from '../../tests/runs'
import { demoDatabase, plainFetch, sourceOfTests } from '../../tests/support'
import { planRun, runPages } from './execute'
import { RunMeter } from './meter'
import { readyRun } from './ready'
import { tieOutResults } from './tieOuts'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const check = (definition: ReportDefinition, answers: Record<string, string> = {}) =>
  tieOutResults(readyRun(runOver(catalog, definition, { answers, ...nestedOf(catalog, definition, demoReports()) }), true), plainFetch(db))
const value = async (sql: string) => Number((await db.query<{ value: string }>(sql)).rows[0]!.value)
const tie = (left: TieFigure, right: TieFigure, tolerance = '0'): TieOut => ({ id: 'one', name: 'One', left, right, tolerance })
const formula = (text: string, dataSet = 'main'): TieFigure => ({ is: 'formula', dataSet, formula: text })
const line = (name: string, column: string): TieFigure => ({ is: 'line', statement: 'statement', line: name, column })

it('hold in all reports that come with the company', async () => {
  const reports = demoReports().filter(report => report.definition.tieOuts?.length)
  expect(reports.length).toBeGreaterThan(4)
  for (const { name, definition } of reports)
    for (const result of await check(definition)) expect(result, `${name}: ${result.name}`).toMatchObject({ holds: true, difference: '0' })
})

describe('the figures of a tie-out', () => {
  it('are those of the source: formulas over data sets, totals on a layout, lines of statements', async () => {
    const byHand = await value(
      'select sum(debit) - sum(credit) as value from journal_lines l join journals j on j.id = l.journal_id join accounts a on ' +
        "a.code = l.account_code where a.class = 'Current assets' and j.posting_date <= '2026-10-31'",
    )
    const [result] = await check({ ...statement('balance'), tieOuts: [tie(line('currentAssets', 'now'), formula('0'))] })
    expect([Number(result!.left), result!.right, Number(result!.difference), result!.holds]).toEqual([byHand, '0', byHand, false])
  })
  it('include totals that stand at the end of a table, once where other figures stand under them', async () => {
    const definition = customerAgeing()
    const table = definition.layouts[0]!.blocks.flatMap(block => (block.kind === 'repeat' ? block.blocks : [block])).find(
      block => block.kind === 'table',
    )!
    const [result] = await check({
      ...definition,
      tieOuts: [tie({ is: 'total', table: table.id, column: 'total' }, formula('sum(items.base_open)'))],
    })
    expect(result).toMatchObject({ holds: true })
    expect(Number(result!.left)).toBeGreaterThan(0)
  })
  it('may differ by the tolerance and no more', async () => {
    const at = (tolerance: string) => check({ ...statement('balance'), tieOuts: [tie(formula('0.05'), formula('0'), tolerance)] })
    expect((await at('0.05'))[0]).toMatchObject({ holds: true, difference: '0.05' })
    expect((await at('0.049'))[0]).toMatchObject({ holds: false, difference: '0.05' })
  })
  it('that are not there any more are said in a sentence, and hide nothing else', async () => {
    const results = await check({
      ...statement('balance'),
      tieOuts: [
        tie(line('gone', 'now'), formula('0')),
        { ...tie(formula('sum(nothing)'), formula('1', 'other')), id: 'two' },
        { ...tie(line('totalAssets', 'now'), line('totalBoth', 'now')), id: 'three' },
      ],
    })
    expect(results.map(each => each.holds)).toEqual([false, false, true])
    expect(results[0]!.sentence).toBe('The statement “statement” has no line “gone” any more; choose another.')
    expect(results[1]!.sentence).toContain('nothing')
  })
})

it('a figure changed in the books breaks what it belongs to', async () => {
  await db.exec(
    'begin; update journal_lines set debit = debit + 1 where (journal_id, line_no) = (select journal_id, line_no from journal_lines ' +
      'where debit > 0 order by 1, 2 limit 1)',
  )
  const [result] = await check(statement('balance'))
  await db.exec('rollback')
  expect(result).toMatchObject({ holds: false })
  expect(Math.abs(Number(result!.difference))).toBe(1)
})

it('are suggested: a balance sheet balances, debits equal credits; none that is there already', () => {
  const plain = { ...statement('balance'), tieOuts: [] }
  const ready = readyRun(
    { name: 'test', definition: plain, catalog, schema: sourceSchema, ...sourceOfTests, answers: {}, today: clock },
    true,
  )
  const names = suggestTieOuts(plain, ready.report.tree.levels, undefined, false).map(each => each.name)
  expect(names).toEqual([
    'The balance sheet balances',
    'The result is that of the trial balance',
    'Assets are those of the trial balance',
    'Debits equal credits',
  ])
  expect(suggestTieOuts(statement('balance'), ready.report.tree.levels, undefined, false).map(each => each.name)).not.toContain(
    'The balance sheet balances',
  )
})

describe('what is suggested for the reports of the company', () => {
  const suggested = async (definition: ReportDefinition) => {
    const ready = readyRun(runOver(catalog, definition, nestedOf(catalog, definition, demoReports())), true)
    let records: DataRecords | undefined
    const chunks = new RunMeter().chunks(ready, planRun(ready, 'all'), plainFetch(db), { chunk: Number.MAX_SAFE_INTEGER }, 'all')
    for await (const chunk of chunks) records = chunk.records
    return suggestTieOuts(definition, ready.report.tree.levels, records, true).map((each, index): TieOut => ({ ...each, id: `s${index}` }))
  }
  it.each(
    demoReports()
      .filter(({ name }) => !['Price list'].includes(name))
      .map(({ name, definition }) => [name, definition] as const),
  )('%s: it holds', async (name, definition) => {
    const tieOuts = await suggested({ ...definition, tieOuts: [] })
    const results = await check({ ...definition, tieOuts })
    expect(
      results.filter(each => !each.holds).map(each => `${each.name}: ${each.left} ${each.right} ${each.sentence ?? ''}`),
      name,
    ).toEqual([])
  })
  it('an invoice is the sum of its lines, taxes and freight', async () => {
    const invoice = (await suggested(salesInvoice())).find(each => each.left.is === 'formula' && each.left.formula === 'sum(total)')
    expect((invoice!.right as { formula: string }).formula).toBe('sum(lines.amount) + sum(taxes.amount) + sum(freight) - sum(discount)')
  })
  it('a comparison of branches adds up, and breaks where a posting goes to none of them', async () => {
    const definition = { ...statement('branches'), tieOuts: [] }
    const [branches] = (await suggested(definition)).filter(each => each.name === 'The branches add up to all')
    expect(await check({ ...definition, tieOuts: [branches!] })).toMatchObject([{ holds: true }])
    const narrowed = {
      ...definition,
      layouts: definition.layouts.map(layout => ({
        ...layout,
        blocks: layout.blocks.map(block =>
          block.kind === 'statement'
            ? { ...block, columns: block.columns.map(column => (column.id === 'all' ? { ...column, branches: ['NQ'] } : column)) }
            : block,
        ),
      })),
    }
    expect(await check({ ...narrowed, tieOuts: [branches!] })).toMatchObject([{ holds: false }])
  })
})

it('stand on the page where the layout prints them: names before they are known, then both figures', async () => {
  const definition = statement('balance')
  const block: TiesBlock = { kind: 'ties', id: 'ties', left: 0, width: 0, failedOnly: false, after: 0 }
  const off = {
    ...definition,
    tieOuts: [...definition.tieOuts!, tie(formula('12'), formula('10.5'))],
    layouts: [{ ...definition.layouts[0]!, blocks: [...definition.layouts[0]!.blocks, block] }],
  }
  const ready = readyRun({ name: 'test', definition: off, catalog, schema: sourceSchema, ...sourceOfTests, answers: {}, today: clock })
  const pagesText = async (run: typeof ready) => {
    let text = ''
    for await (const page of runPages(run, plainFetch(db), new RunMeter()))
      text += page.items.flatMap(item => (item.kind === 'text' ? [item.text] : [])).join(' ')
    return text
  }
  expect(await pagesText(ready)).toMatch(/Checked.*The balance sheet balances when run/)
  const results = await tieOutResults(ready, plainFetch(db))
  const text = await pagesText({ ...ready, tieOuts: results })
  expect(text).toMatch(/The balance sheet balances .* agrees/)
  expect(text).toMatch(/12.00 10.50 1.50 does not agree/)
})

it('speak of all accounts, though a statement of income alone would read no others', async () => {
  const definition = {
    ...statement('income', block => ({
      ...block,
      lines: [{ id: 'income', kind: 'accounts', accounts: 'type income' }],
      columns: block.columns.filter(column => column.id === 'actual'),
    })),
    parameters: statement('income').parameters,
  }
  const period = 'not j.is_closing and j.fiscal_year_id = 2026 and j.period_number = 7'
  const expenses = await value(
    `select sum(l.debit - l.credit) as value from journal_lines l join journals j on j.id = l.journal_id join accounts a on a.code
      = l.account_code where ${period} and a.type = 'expense'`,
  )
  const debits = await value(`select sum(l.debit) as value from journal_lines l join journals j on j.id = l.journal_id where ${period}`)
  const [trial, sides] = await check(
    {
      ...definition,
      tieOuts: [
        tie({ is: 'trial', statement: 'statement', column: 'actual', types: ['expense'] }, formula(String(expenses))),
        { ...tie(formula('sum(debit)'), formula('sum(credit)')), id: 'two' },
      ],
    },
    { period: '2026-P07' },
  )
  expect(trial).toMatchObject({ holds: true, left: String(expenses) })
  expect(sides).toMatchObject({ holds: true })
  expect(Number(sides!.left)).toBeCloseTo(debits, 2)
})
