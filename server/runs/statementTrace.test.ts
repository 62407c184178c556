import { schema as sourceSchema } from '../../demo/source'
import type { PGlite } from '@electric-sql/pglite'
import fc from 'fast-check'
import { beforeAll, expect, it } from 'vitest'
import type { Catalog } from '../../core/books/catalog'
import type { StatementBlock } from '../../core/definition/blocks/statement'
import { askDay } from '../../core/definition/edits/books'
import type { ReadyStatement } from '../../core/templates/statements'
import { clock } from '../../demo/company/clock'
import { statement } from '../../demo/reports/statements'
import { demoDatabase, plainFetch, sourceOfTests } from '../../tests/support'
import { readyRun } from './ready'
import type { StatementTrace } from '../../core/api/answers'
import { statementTrace } from './statementTrace'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const trace = (
  kind: ReadyStatement,
  wanted: { line: string; column: string; account?: string },
  answers: Record<string, string> = {},
): Promise<StatementTrace> =>
  statementTrace(
    readyRun(
      {
        name: 'test',
        definition: statement(kind),
        catalog,
        schema: sourceSchema,
        ...sourceOfTests,
        answers: { period: '2026-P07', ...answers },
        today: clock,
      },
      true,
    ),
    { statement: 'statement', ...wanted },
    plainFetch(db),
  )
const byHand = async (where: string) =>
  (
    await db.query<{
      code: string
      name: string
      amount: string
      lines: number
    }>(`select a.code, a.name, sum(l.debit - l.credit) as amount, count(*)::int as lines from journal_lines l join journals j on
      j.id = l.journal_id join accounts a on a.code = l.account_code join branches b on b.id = l.branch_id
  where not j.is_closing and ${where} group by 1, 2 having sum(l.debit - l.credit) <> 0 order by 1`)
  ).rows
const sum = (values: readonly (string | number)[]) => Math.round(values.reduce<number>((all, value) => all + Number(value), 0) * 100) / 100

it('leads from a line to its accounts and to all their journal lines', async () => {
  const found = await trace('income', { line: 'operatingExpenses', column: 'toDate' })
  const rows = await byHand("a.class = 'Operating expenses' and j.fiscal_year_id = 2026 and j.period_number <= 7")
  expect(found.accounts.map(each => [each.code, each.name, Number(each.amount)])).toEqual(
    rows.map(row => [row.code, row.name, Number(row.amount)]),
  )
  expect(Number(found.figure)).toBe(sum(rows.map(row => row.amount)))
  expect([found.count, Number(found.total)]).toEqual([sum(rows.map(row => row.lines)), Number(found.figure)])
  expect(found.lines).toHaveLength(Math.min(300, found.count))
  expect(found.columns.slice(0, 3)).toEqual(['Date', 'Account', 'Number'])
})

it('follows formulas through what they add and take off, one account alone if asked, and one branch', async () => {
  const result = await trace('income', { line: 'result', column: 'actual' })
  const rows = await byHand("a.type in ('income', 'expense') and j.fiscal_year_id = 2026 and j.period_number = 7")
  expect(Number(result.figure)).toBe(-sum(rows.map(row => row.amount)))
  expect(result.accounts.map(each => each.code)).toEqual(rows.map(row => row.code))
  const one = await trace('income', { line: 'personnel', column: 'actual', account: '6010' })
  expect(one.accounts.map(each => each.code)).toEqual(['6010'])
  expect(Number(one.total)).toBe(Number(rows.find(row => row.code === '6010')!.amount))
  expect(sum(one.lines.map(line => Number(line.debit) - Number(line.credit)))).toBe(Number(one.total))
  const first = await trace('branches', { line: 'sales', column: 'branch#1' })
  const codes = (await db.query<{ code: string }>('select code from branches order by id')).rows.map(row => row.code)
  expect(-Number(first.figure)).toBe(
    sum(
      (await byHand(`a.class = 'Sales' and j.fiscal_year_id = 2026 and j.period_number <= 7 and b.code = '${codes[0]}'`)).map(
        row => row.amount,
      ),
    ),
  )
  expect(Number(first.total)).toBe(-Number(first.figure))
})

it('of a balance reaches back to the beginning; a total of columns to all of them', async () => {
  const cash = await trace('balance', { line: 'currentAssets', column: 'now' })
  expect(Number(cash.total)).toBe(Number(cash.figure))
  expect(Number(cash.figure)).toBe(
    sum((await byHand("a.class = 'Current assets' and j.posting_date <= '2026-10-31'")).map(row => row.amount)),
  )
  const year = await trace('months', { line: 'depreciation', column: 'all' })
  expect(Number(year.figure)).toBe(
    sum(
      (await byHand("a.class = 'Depreciation' and (j.fiscal_year_id, j.period_number) between (2025, 8) and (2026, 7)")).map(
        row => row.amount,
      ),
    ),
  )
})

it('a figure that is not there any more is said in a sentence', async () => {
  await expect(trace('income', { line: 'sales', column: 'gone' })).rejects.toMatchObject({
    sentences: ['This figure is not on the statement any more; read the rows again.'],
  })
})

it(
  'every figure of accounts equals its journal lines, for any branches: of balances too, with what closed years left in ' + 'equity',
  async () => {
    const codes = (await db.query<{ code: string }>('select code from branches order by id')).rows.map(row => row.code)
    const cashLines = (statement('cash').layouts[0]!.blocks.find(block => block.kind === 'statement') as StatementBlock).lines
      .filter(line => ['accounts', 'formula', 'sum'].includes(line.kind))
      .map(line => line.id)
    const places: [ReadyStatement, string[], string[]][] = [
      ['balance', ['equity', 'resultOfYear', 'currentAssets', 'longTermLiabilities'], ['now', 'before']],
      ['income', ['sales', 'financial', 'personnel'], ['actual', 'before']],
      ['branches', ['sales', 'operatingExpenses'], ['branch#1', 'all']],
      ['cash', cashLines, ['toDate']],
    ]
    const wanted = fc
      .constantFrom(...places)
      .chain(([kind, lines, columns]) =>
        fc.record({ kind: fc.constant(kind), line: fc.constantFrom(...lines), column: fc.constantFrom(...columns) }),
      )
    await fc.assert(
      fc.asyncProperty(
        wanted,
        fc.subarray(codes),
        fc.constantFrom('2026-P07', '2025-P12', '2025-P02'),
        async ({ kind, line, column }, branches, period) => {
          const found = await trace(kind, { line, column }, { period, branches: branches.join(',') })
          expect(Math.abs(Number(found.total)), `${kind} ${line} ${column} ${branches.join(' ')} ${period}`).toBe(
            Math.abs(Number(found.figure)),
          )
        },
      ),
      { numRuns: 60 },
    )
  },
)

it('retained earnings lead to the results of years before, also of accounts that are left out', async () => {
  const answers = { fromAccount: '3900', toAccount: '3999' }
  const [all, some] = [
    await trace('trial', { line: 'accounts', column: 'opening', account: '3900' }),
    await trace('trial', { line: 'accounts', column: 'opening', account: '3900' }, answers),
  ]
  expect([some.figure, some.count, some.total]).toEqual([all.figure, all.count, all.total])
  expect(some.count).toBeGreaterThan(1000)
  expect(Number(some.total)).toBe(Number(some.figure))
})

it('a line of its own branch and department leads to their postings only', async () => {
  const own = statement('income', block => ({
    ...block,
    lines: block.lines.map(line => (line.id === 'personnel' ? { ...line, branches: ['NQ'], departments: ['SAL'] } : line)),
  }))
  const [branch, department] = await Promise.all(
    ['branches', 'departments'].map(
      async table => (await db.query<{ code: string }>(`select code from ${table} order by id limit 1`)).rows[0]!.code,
    ),
  )
  const definition = JSON.parse(JSON.stringify(own).replace('"NQ"', `"${branch}"`).replace('"SAL"', `"${department}"`)) as typeof own
  const found = await statementTrace(
    readyRun({ name: 'test', definition, catalog, schema: sourceSchema, ...sourceOfTests, today: clock, answers: {} }),
    { statement: 'statement', line: 'personnel', column: 'toDate' },
    plainFetch(db),
  )
  const rows = await byHand(
    `a.class = 'Personnel' and j.fiscal_year_id = 2026 and j.period_number <= 7 and b.code = '${branch}' and l.department_id =
      (select id from departments where code = '${department}')`,
  )
  expect(Number(found.figure)).toBe(sum(rows.map(row => row.amount)))
  expect([found.count, Number(found.total)]).toEqual([sum(rows.map(row => row.lines)), Number(found.figure)])
  expect(found.count).toBeGreaterThan(0)
})

it('a difference leads to each of its two columns, a per cent too', async () => {
  for (const column of ['difference', 'percent']) {
    const found = await trace('income', { line: 'sales', column })
    expect(found.sides?.map(each => each.column)).toEqual(['toDate', 'before'])
    const [of, against] = [
      await trace('income', { line: 'sales', column: found.sides![0]!.column }),
      await trace('income', { line: 'sales', column: found.sides![1]!.column }),
    ]
    expect(found.figure).toBe(of.figure)
    expect(Number(against.figure)).toBe(
      -sum((await byHand("a.class = 'Sales' and j.fiscal_year_id = 2025 and j.period_number <= 7")).map(row => row.amount)),
    )
    expect(of.sides).toBeUndefined()
  }
})

it('as of a day, only what is posted up to it is behind a figure', async () => {
  const definition = askDay(statement('balance'))
  const found = await statementTrace(
    readyRun({ name: 'test', definition, catalog, schema: sourceSchema, ...sourceOfTests, today: clock, answers: { asOf: '2026-10-14' } }),
    { statement: 'statement', line: 'currentAssets', column: 'now' },
    plainFetch(db),
  )
  expect(Number(found.total)).toBe(Number(found.figure))
  expect(Number(found.figure)).toBe(
    sum((await byHand("a.class = 'Current assets' and j.posting_date <= '2026-10-14'")).map(row => row.amount)),
  )
})
