import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { columnOf } from '../value/columns'
import type { LevelRecords } from '../value/records'
import type { StatementMeasure } from '../definition/blocks/statement'
import { decimal, toNumber } from '../value/decimal'
import type { StandingColumn } from './columns'
import { LedgerFigures } from './figures'

interface Entry {
  account: string
  period: string
  version: string
  branch: string
  department: string
  debit: number
  credit: number
}
const chart: [string, string][] = [
  ['1000', 'asset'],
  ['2000', 'liability'],
  ['3000', 'equity'],
  ['4000', 'income'],
  ['6000', 'expense'],
]
const periods = ['2024-P11', '2024-P12', '2024-P13', '2025-P01', '2025-P02', '2025-P12', '2025-P13', '2026-P01', '2026-P02']
const types = { asset: 'asset', liability: 'liability', equity: 'equity', income: 'income', expense: 'expense' } as const

const entry: fc.Arbitrary<Entry> = fc.record({
  account: fc.constantFrom(...chart.map(([code]) => code)),
  period: fc.constantFrom(...periods),
  version: fc.constantFrom('', '', '', 'one', 'two'),
  branch: fc.constantFrom('A', 'B', ''),
  department: fc.constantFrom('X', 'Y', ''),
  debit: fc.integer({ min: 0, max: 100_000 }),
  credit: fc.integer({ min: 0, max: 100_000 }),
})
function recordsOf(entries: readonly Entry[]): LevelRecords {
  // every account has a row, as the statement of the books gives it
  const rows: (Omit<Entry, 'debit' | 'credit'> & { debit: number | null; credit: number | null })[] = [
    ...chart.map(([account]) => ({ account, period: '', version: '', branch: '', department: '', debit: null, credit: null })),
    ...entries,
  ]
  const text = (of: (row: (typeof rows)[number]) => string | null) => columnOf('text', rows.map(of))
  const money = (of: (row: (typeof rows)[number]) => number | null) =>
    columnOf(
      'number',
      rows.map(row => (of(row) === null ? null : decimal(of(row)!, 2))),
    )
  return {
    count: rows.length,
    starts: Int32Array.of(0, rows.length),
    columns: {
      account: text(row => row.account),
      account_name: text(row => `Account ${row.account}`),
      account_type: text(row => chart.find(([code]) => code === row.account)![1]),
      account_class: text(() => 'Class'),
      period: text(row => row.period || null),
      version: text(row => row.version),
      branch: text(row => row.branch || null),
      department: text(row => row.department || null),
      debit: money(row => row.debit),
      credit: money(row => row.credit),
    },
  }
}
const standing = (
  kind: StatementMeasure,
  own: string[],
  more: Partial<StandingColumn> & { version?: string; branches?: string[] } = {},
): StandingColumn => {
  const { version, branches, ...rest } = more
  return {
    id: kind,
    column: { id: kind, kind, width: 0, ...(version ? { version } : {}), ...(branches ? { branches } : {}) },
    words: '',
    periods: own,
    ...rest,
  }
}
/** Cents of an account, added up one entry after the other. */
const naive = (
  entries: readonly Entry[],
  account: string,
  counts: (each: Entry) => boolean,
  of: (each: Entry) => number = each => each.debit - each.credit,
) => entries.reduce((sum, each) => (each.account === account && counts(each) ? sum + of(each) : sum), 0)
const cents = (books: LedgerFigures, found: readonly { units: number | bigint; scale: number }[], account: string) =>
  Math.round(toNumber(found[books.accounts.findIndex(each => each.code === account)]! as never) * 100)

describe('the books, asked for figures', () => {
  const year = (code: string) => code.slice(0, 4)
  it('give activity, debits, credits and budgets as a loop over all entries does', () => {
    fc.assert(
      fc.property(
        fc.array(entry, { maxLength: 60 }),
        fc.subarray(periods, { minLength: 1 }),
        fc.subarray(['A', 'B']),
        fc.constantFrom(undefined, 'X'),
        (entries, wanted, branches, department) => {
          const books = new LedgerFigures(recordsOf(entries), { types, retainedEarnings: '3000' })
          const ask = (kind: StatementMeasure, more: object = {}) =>
            books.of({ column: standing(kind, wanted, more), branches, ...(department ? { departments: [department] } : {}) })
          const inside = (each: Entry) =>
            wanted.includes(each.period) &&
            (!branches.length || branches.includes(each.branch)) &&
            (!department || each.department === department)
          for (const [account] of chart) {
            expect(cents(books, ask('activity'), account)).toBe(naive(entries, account, each => each.version === '' && inside(each)))
            expect(cents(books, ask('debit'), account)).toBe(
              naive(
                entries,
                account,
                each => each.version === '' && inside(each),
                each => each.debit,
              ),
            )
            expect(cents(books, ask('credit'), account)).toBe(
              naive(
                entries,
                account,
                each => each.version === '' && inside(each),
                each => each.credit,
              ),
            )
            expect(cents(books, ask('budget', { version: 'two' }), account)).toBe(
              naive(entries, account, each => each.version === 'two' && inside(each)),
            )
          }
        },
      ),
    )
  })
  it('give balances in which a year’s income and expense begin at zero and what they came to before stands in retained earnings', () => {
    fc.assert(
      fc.property(fc.array(entry, { maxLength: 60 }), fc.constantFrom(...periods), fc.boolean(), (entries, at, opening) => {
        const books = new LedgerFigures(recordsOf(entries), { types, retainedEarnings: '3000' })
        const found = books.of({ column: standing(opening ? 'opening' : 'balance', [at]) })
        const reached = (each: Entry) => each.version === '' && (opening ? each.period < at : each.period <= at)
        let kept = 0
        for (const account of ['4000', '6000']) {
          expect(cents(books, found, account)).toBe(naive(entries, account, each => reached(each) && year(each.period) === year(at)))
          kept += naive(entries, account, each => reached(each) && year(each.period) !== year(at))
        }
        for (const account of ['1000', '2000']) expect(cents(books, found, account)).toBe(naive(entries, account, reached))
        expect(cents(books, found, '3000')).toBe(naive(entries, '3000', reached) + kept)
        // whatever was put where: all accounts together are what was posted
        expect(chart.reduce((sum, [account]) => sum + cents(books, found, account), 0)).toBe(
          chart.reduce((sum, [account]) => sum + naive(entries, account, reached), 0),
        )
      }),
    )
  })
  it('are the same whether all records are at hand or only a stretch of them counts', () => {
    fc.assert(
      fc.property(fc.array(entry, { minLength: 1, maxLength: 40 }), fc.nat(), fc.nat(), (entries, a, b) => {
        const records = recordsOf(entries)
        const [from, to] = [a % (records.count + 1), b % (records.count + 1)].sort((x, y) => x - y) as [number, number]
        const part = new LedgerFigures(records, { types, retainedEarnings: '3000' }, [[from, to]])
        const inside = entries.slice(Math.max(0, from - chart.length), Math.max(0, to - chart.length))
        const found = part.of({ column: standing('activity', periods) })
        part.accounts.forEach(({ code }) => expect(cents(part, found, code)).toBe(naive(inside, code, each => each.version === '')))
      }),
    )
  })
  it('know branches in the order of their table, those without a posting too, and those that the table does not have', () => {
    const records = recordsOf([
      { account: '1000', period: '2025-P01', version: '', branch: 'B', department: '', debit: 1, credit: 0 },
      { account: '1000', period: '2025-P01', version: '', branch: 'Q', department: '', debit: 1, credit: 0 },
    ])
    const books = new LedgerFigures(records, {
      types,
      retainedEarnings: '3000',
      branches: {
        units: [
          { code: 'B', name: 'Beta' },
          { code: 'A', name: 'Alpha' },
        ],
      },
    })
    expect(books.branches).toEqual([
      { code: 'B', name: 'Beta' },
      { code: 'Q', name: 'Q' },
    ])
  })
})
