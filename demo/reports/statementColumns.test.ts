import type { PGlite } from '@electric-sql/pglite'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../core/books/catalog'
import {
  type StatementColumn,
  type StatementLine,
  statementMeasures,
  type StatementSpan,
  statementUnits,
} from '../../core/definition/blocks/statement'
import { decimalText, trim, zero } from '../../core/value/decimal'
import { layReport } from '../../tests/statements'
import { demoDatabase } from '../../tests/support'
import { statement } from './statements'

/** One posting, or one budget of a version. */
interface Entry {
  account: string
  type: string
  year: number
  period: number
  branch: string
  department: string
  version: string
  cents: number
  debit: number
  credit: number
}

let db: PGlite
let catalog: Catalog
let entries: Entry[]
let branches: string[]
let departments: string[]
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
  const posted =
    await db.query<Entry>(`select l.account_code as account, a.type, j.fiscal_year_id as year, j.period_number as period, b.code as
      branch, coalesce(d.code, '') as department, '' as version,
    sum(round((l.debit - l.credit) * 100))::float8 as cents, sum(round(l.debit * 100))::float8 as debit, sum(round(l.credit *
    100))::float8 as credit
    from journal_lines l join journals j on j.id = l.journal_id join accounts a on a.code = l.account_code join branches b on b.id
    = l.branch_id left join departments d on d.id = l.department_id where not j.is_closing group by 1, 2, 3, 4, 5, 6`)
  const planned =
    await db.query<Entry>(`select g.account_code as account, a.type, g.fiscal_year_id as year, g.period_number as period, b.code as
      branch, '' as department, g.version,
    round(case when a.natural_side = 'credit' then -g.amount else g.amount end * 100)::float8 as cents, 0::float8 as debit,
    0::float8 as credit from budgets g join accounts a on a.code = g.account_code join branches b on b.id = g.branch_id`)
  entries = [...posted.rows, ...planned.rows]
  branches = (await db.query<{ code: string }>('select code from branches order by id')).rows.map(row => row.code)
  departments = (await db.query<{ code: string }>('select code from departments order by id')).rows.map(row => row.code)
})

/** Months of all fiscal years in a row: 2024/25's April is 0. */
const monthOf = (year: number, period: number) => (year - 2024) * 12 + period - 1
const last = monthOf(2026, 12)

/** The months of a span, from and to, by counting; nothing where the calendar does not reach so far. */
function stretch(span: StatementSpan, anchor: number): [number, number] | undefined {
  const unit = { period: 1, quarter: 3, year: 12 }[
    span.backBy ?? (span.unit === 'quarter' ? 'quarter' : span.unit === 'year' || span.unit === 'yearToDate' ? 'year' : 'period')
  ]
  const at = anchor - (span.back ?? 0) * unit
  if (at < 0 || at > last) return undefined
  const year = Math.floor(at / 12) * 12
  switch (span.unit) {
    case 'period':
      return [at, at]
    case 'quarter':
      return [year + Math.floor((at - year) / 3) * 3, year + Math.floor((at - year) / 3) * 3 + 2]
    case 'year':
      return [year, year + 11]
    case 'yearToDate':
      return [year, at]
    case 'last':
      return [Math.max(0, at - span.count! + 1), at]
    case 'range':
      return [at, at]
  }
}
/** Adjustments belong to the last month of their year. */
const placeOf = (entry: Entry) => monthOf(entry.year, Math.min(12, entry.period))
const result = (entry: Entry) => entry.type === 'income' || entry.type === 'expense'

/** What a column holds of some accounts, one entry after the other. */
function byHand(column: StatementColumn, anchor: number, counts: (entry: Entry) => boolean, retained: boolean): number {
  const found = stretch(column.span!, anchor)
  if (!found) return 0
  const [from, to] = found
  const within = (entry: Entry) =>
    (!column.branches?.length || column.branches.includes(entry.branch)) &&
    (!column.departments?.length || column.departments.includes(entry.department))
  const sum = (test: (entry: Entry) => boolean, of: (entry: Entry) => number = entry => entry.cents) =>
    entries.reduce((total, entry) => (within(entry) && test(entry) ? total + of(entry) : total), 0)
  const inside = (entry: Entry) => placeOf(entry) >= from && placeOf(entry) <= to
  switch (column.kind) {
    case 'activity':
      return sum(entry => entry.version === '' && counts(entry) && inside(entry))
    case 'debit':
      return sum(
        entry => entry.version === '' && counts(entry) && inside(entry),
        entry => entry.debit,
      )
    case 'credit':
      return sum(
        entry => entry.version === '' && counts(entry) && inside(entry),
        entry => entry.credit,
      )
    case 'budget':
      return sum(entry => entry.version === column.version && counts(entry) && inside(entry))
    default: {
      const end = column.kind === 'balance' ? to : from - 1
      // an opening balance of a year's first month looks at the year that begins with it
      const year = Math.floor((column.kind === 'balance' ? to : from) / 12) * 12
      const own = sum(entry => entry.version === '' && counts(entry) && placeOf(entry) <= end && (!result(entry) || placeOf(entry) >= year))
      return own + (retained ? sum(entry => entry.version === '' && result(entry) && placeOf(entry) <= end && placeOf(entry) < year) : 0)
    }
  }
}

const lines: [StatementLine, (entry: Entry) => boolean, boolean][] = [
  [
    { id: 'sales', kind: 'accounts', accounts: '4010..4099', sign: 'debit' },
    entry => entry.account >= '4010' && entry.account <= '4099',
    false,
  ],
  [
    { id: 'costs', kind: 'accounts', accounts: 'type expense except 6145, 7*', sign: 'debit' },
    entry => entry.type === 'expense' && entry.account !== '6145' && !entry.account.startsWith('7'),
    false,
  ],
  [
    { id: 'cash', kind: 'accounts', accounts: '1010, 1020, 1090', sign: 'debit' },
    entry => ['1010', '1020', '1090'].includes(entry.account),
    false,
  ],
  [{ id: 'equity', kind: 'accounts', accounts: 'type equity', sign: 'debit' }, entry => entry.type === 'equity', true],
  [
    { id: 'premises', kind: 'accounts', accounts: 'under 6101', sign: 'debit' },
    entry => ['6110', '6115', '6150'].includes(entry.account),
    false,
  ],
]

describe('columns of a statement', () => {
  it(
    'any of them, over any stretch, so far back as may be, for some branches or departments, hold what a loop over all postings ' + 'finds',
    async () => {
      const span = fc.record({
        unit: fc.constantFrom(...statementUnits.filter(unit => unit !== 'range')),
        count: fc.integer({ min: 1, max: 13 }),
        back: fc.integer({ min: 0, max: 14 }),
        backBy: fc.constantFrom('period' as const, 'quarter' as const, 'year' as const),
      })
      const column = fc.record({
        kind: fc.constantFrom(...statementMeasures),
        span,
        version: fc.constantFrom('original', 'revised'),
        branches: fc.subarray([0, 1, 2]),
        departments: fc.subarray([0, 1, 2]),
      })
      await fc.assert(
        fc.asyncProperty(
          fc.array(column, { minLength: 1, maxLength: 5 }),
          fc.integer({ min: 12, max: monthOf(2026, 7) }),
          async (wanted, anchor) => {
            const columns = wanted.map((each, index): StatementColumn => ({
              id: `c${index}`,
              kind: each.kind,
              width: 0,
              span: { ...each.span, anchor: 'param.period' },
              ...(each.kind === 'budget' ? { version: each.version } : {}),
              branches: each.branches.map(place => branches[place]!),
              departments: each.kind === 'budget' ? [] : each.departments.map(place => departments[place]!),
            }))
            const period = `${2024 + Math.floor(anchor / 12)}-P${String((anchor % 12) + 1).padStart(2, '0')}`
            const found = await layReport(
              db,
              catalog,
              statement('income', block => ({ ...block, lines: lines.map(([line]) => line), columns })),
              { period },
            )
            for (const [line, counts, retained] of lines) {
              const row = found.shaped.rows.find(each => each.line.id === line.id)!
              columns.forEach((each, at) =>
                expect(decimalText(trim(row.exact[at] ?? zero)), `${line.id} ${JSON.stringify(each)} ${period}`).toBe(
                  cents(byHand(each, anchor, counts, retained)),
                ),
              )
            }
          },
        ),
        { numRuns: 40 },
      )
    },
  )
  it('a trend over months, and its total, is the activity of the stretch that it covers, however long and from wherever', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 13 }), fc.integer({ min: 13, max: monthOf(2026, 7) }), async (count, anchor) => {
        const columns: StatementColumn[] = [
          { id: 'month', kind: 'activity', width: 0, span: { unit: 'period', anchor: 'param.period' }, repeat: { over: 'period', count } },
          { id: 'all', kind: 'total', width: 0, of: ['month'] },
          { id: 'range', kind: 'activity', width: 0, span: { unit: 'last', anchor: 'param.period', count } },
          { id: 'mean', kind: 'average', width: 0, of: ['month'] },
        ]
        const period = `${2024 + Math.floor(anchor / 12)}-P${String((anchor % 12) + 1).padStart(2, '0')}`
        const found = await layReport(
          db,
          catalog,
          statement('income', block => ({ ...block, lines: lines.map(([line]) => line), columns })),
          { period },
        )
        for (const [line] of lines) {
          const figures = found.shaped.rows
            .find(each => each.line.id === line.id)!
            .exact.map(value => Math.round(Number(decimalText(value ?? zero)) * 100))
          const months = figures.slice(0, count)
          expect(figures[count]).toBe(months.reduce((sum, each) => sum + each, 0))
          expect(figures[count + 1]).toBe(figures[count])
          expect(Math.abs(figures[count + 2]! - figures[count]! / count)).toBeLessThanOrEqual(1)
        }
      }),
      { numRuns: 15 },
    )
  })
})
const cents = (value: number) => {
  const text = String(Math.abs(value)).padStart(3, '0')
  return `${value < 0 ? '-' : ''}${text.slice(0, -2)}.${text.slice(-2)}`.replace(/\.?0+$/, '')
}
