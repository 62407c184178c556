import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compareDecimals, decimal, round, toNumber } from '../value/decimal'
import { columnOf } from '../value/columns'
import type { LevelRecords } from '../value/records'
import type { StatementBlock } from '../definition/blocks/statement'
import type { StandingColumn } from './columns'
import { LedgerFigures } from './figures'
import { shapeStatement } from './shape'
import { spread } from './rounding'

describe('rounding that adds up (largest remainder)', () => {
  const cents = fc.integer({ min: -10_000_000, max: 10_000_000 })
  it('comes to the target, each figure within one step of its own', () => {
    fc.assert(
      fc.property(fc.array(cents, { minLength: 1, maxLength: 30 }), fc.integer({ min: 0, max: 1 }), (values, scale) => {
        const own = values.map(value => decimal(value, 5))
        const target = round(
          decimal(
            values.reduce((sum, value) => sum + value, 0),
            5,
          ),
          scale,
        )
        const found = spread(own, target, scale)
        const total = found.reduce((sum, value) => sum + toNumber(value), 0)
        if (values.some(value => value !== 0)) expect(total).toBeCloseTo(toNumber(target), 6)
        found.forEach((value, index) => expect(Math.abs(toNumber(value) - values[index]! / 1e5)).toBeLessThan(1.5 * 10 ** -scale + 1e-9))
      }),
    )
  })
  it('leaves figures alone where they add up by themselves, and nothing stays nothing', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -1000, max: 1000 }), { minLength: 1, maxLength: 12 }), values => {
        const own = values.map(value => decimal(value, 0))
        const found = spread(
          own,
          decimal(
            values.reduce((sum, value) => sum + value, 0),
            0,
          ),
          0,
        )
        found.forEach((value, index) => expect(compareDecimals(value, own[index]!)).toBe(0))
      }),
    )
    expect(spread([decimal(0, 0), decimal(14, 1), decimal(14, 1)], decimal(3, 0), 0).map(toNumber)).toEqual([0, 2, 1])
  })
})

describe('accounts as a tree', () => {
  const column: StandingColumn = { id: 'a', column: { id: 'a', kind: 'activity', width: 0 }, words: '', periods: ['2026-P01'] }
  const before: StandingColumn = { id: 'b', column: { id: 'b', kind: 'activity', width: 0 }, words: '', periods: ['2025-P01'] }
  const percent: StandingColumn = { id: 'p', column: { id: 'p', kind: 'percent', width: 0, of: ['a', 'b'] }, words: '', periods: [] }
  const block = (more: Partial<StatementBlock>): StatementBlock => ({
    kind: 'statement',
    id: 's',
    level: 'l',
    after: 0,
    left: 0,
    width: 0,
    lines: [{ id: 'all', kind: 'accounts', accounts: 'all', sign: 'debit', expand: 'tree' }],
    columns: [],
    scale: 'units',
    decimals: 2,
    negatives: 'minus',
    codes: true,
    zeroAccounts: false,
    repeatTitles: true,
    ...more,
  })
  /** any forest: each account stands under one with a lower code, or under none */
  const forest = fc.array(
    fc.record({
      above: fc.option(fc.nat(), { nil: undefined }),
      cents: fc.integer({ min: -5_000_000, max: 5_000_000 }),
      earlier: fc.integer({ min: -5_000_000, max: 5_000_000 }),
    }),
    { minLength: 1, maxLength: 18 },
  )
  const code = (index: number) => String(1000 + index)

  it('every heading ends with what stands under it, rows lie within one another, and no account is lost, in units and in thousands', () => {
    fc.assert(
      fc.property(forest, fc.boolean(), (accounts, thousands) => {
        const parents = accounts.map(({ above }, index) => (above === undefined || !index ? undefined : code(above % index)))
        const rows = accounts.flatMap((each, index) => [
          { index, period: '2026-P01', cents: each.cents },
          { index, period: '2025-P01', cents: each.earlier },
        ])
        const text = (of: (row: (typeof rows)[number]) => string | null) => columnOf('text', rows.map(of))
        const records: LevelRecords = {
          count: rows.length,
          starts: Int32Array.of(0, rows.length),
          columns: {
            account: text(row => code(row.index)),
            account_name: text(row => `Account ${row.index}`),
            account_type: text(() => 'expense'),
            account_class: text(() => null),
            account_parent: text(row => parents[row.index] ?? null),
            period: text(row => row.period),
            version: text(() => ''),
            debit: columnOf(
              'number',
              rows.map(row => decimal(Math.max(row.cents, 0), 2)),
            ),
            credit: columnOf(
              'number',
              rows.map(row => decimal(Math.max(-row.cents, 0), 2)),
            ),
          },
        }
        const books = new LedgerFigures(records, { types: { expense: 'expense' }, retainedEarnings: '' })
        const own = block(thousands ? { scale: 'thousands', decimals: 0 } : {})
        const { rows: shaped } = shapeStatement(own, [{ line: own.lines[0]!, takes: () => true }], [column, before, percent], books)
        const under = (index: number, heading: string): boolean =>
          code(index) === heading || (parents[index] !== undefined && under(Number(parents[index]) - 1000, heading))
        const inside: string[] = []
        const shown: string[] = []
        for (const row of shaped) {
          if (!row.account) continue
          expect(row.above).toEqual(row.part === 'heading' || row.part === 'account' ? inside : inside.slice(0, -1))
          if (row.part === 'heading') inside.push(row.account.code)
          if (row.part === 'account') shown.push(row.account.code)
          if (row.part !== 'ends') continue
          expect(inside.pop()).toBe(row.account.code)
          const [sum, earlier] = (['cents', 'earlier'] as const).map(which =>
            accounts.reduce((total, each, index) => (under(index, row.account!.code) ? total + each[which] : total), 0),
          ) as [number, number]
          expect(Math.round(toNumber(row.exact[0]!) * 100)).toBe(sum)
          // what is printed adds up from what is printed above it
          const leaves = shaped.filter(each => each.part === 'account' && under(Number(each.account!.code) - 1000, row.account!.code))
          expect(toNumber(row.figures[0]!)).toBeCloseTo(
            leaves.reduce((total, each) => total + toNumber(each.figures[0]!), 0),
            6,
          )
          if (earlier) expect(toNumber(row.exact[2]!)).toBeCloseTo((sum - earlier) / Math.abs(earlier), 9)
          else expect(row.exact[2]).toBeNull()
        }
        expect(inside).toEqual([])
        expect([...shown].sort()).toEqual(accounts.flatMap((each, index) => (each.cents || each.earlier ? [code(index)] : [])))
      }),
    )
  })
})
