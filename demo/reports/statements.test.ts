import type { PGlite } from '@electric-sql/pglite'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../core/books/catalog'
import type { LaidStatement } from '../../core/compose/statement/lay'
import type { StatementBlock } from '../../core/definition/blocks/statement'
import type { Block } from '../../core/definition/blocks/block'
import type { ReportDefinition } from '../../core/definition/report'
import { askDay } from '../../core/definition/edits/books'
import type { ReadyStatement } from '../../core/templates/statements'
import { dayText, parseDay } from '../../core/value/date'
import {
  add,
  compareDecimals,
  type Decimal,
  decimalText,
  negate,
  parseDecimal,
  round,
  subtract,
  trim,
  zero,
} from '../../core/value/decimal'
import { composeReport } from '../../tests/pages'
import { layReport } from '../../tests/statements'
import { demoDatabase } from '../../tests/support'
import { clock } from '../company/clock'
import { level } from './invoice'
import { budgetSteps, statement } from './statements'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const rows = async <T = Record<string, string>>(text: string, values: unknown[] = []) => (await db.query<T>(text, values)).rows
const number = (value: unknown): Decimal => parseDecimal(String(value ?? 0))!
const same = (a: Decimal | null, b: Decimal, what: string) => expect(decimalText(trim(a ?? zero)), what).toBe(decimalText(trim(b)))

const laid = (definition: ReportDefinition, answers: Record<string, string>) => layReport(db, catalog, definition, answers)
/** Exact figures of a line, by column; nothing of a line that is left out because all its figures are zero. */
const exact = ({ shaped, columns }: LaidStatement, line: string): (Decimal | null)[] =>
  shaped.rows.find(row => row.line.id === line && row.part === 'line')?.exact ?? columns.map(() => zero)
const column = ({ columns }: LaidStatement, id: string) => columns.findIndex(each => each.id === id)

/** Debit − credit of some accounts in some periods, closing journals left out, by hand. */
const activity = async (accounts: string, periods: string, branches = 'true') =>
  number(
    (
      await rows<{
        value: string
      }>(`select sum(l.debit - l.credit) as value from journal_lines l join journals j on j.id = l.journal_id join accounts a on
        a.code = l.account_code
  join branches b on b.id = l.branch_id where not j.is_closing and ${accounts} and ${periods} and ${branches}`)
    )[0]!.value,
  )

const classes: [string, string, number][] = [
  ['sales', "a.class = 'Sales'", -1],
  ['services', "a.class = 'Services'", -1],
  ['costOfSales', "a.class = 'Cost of sales'", 1],
  ['personnel', "a.class = 'Personnel'", 1],
  ['operatingExpenses', "a.class = 'Operating expenses'", 1],
  ['depreciation', "a.class = 'Depreciation'", 1],
  ['financial', "a.class = 'Financial'", -1],
  ['incomeTax', "a.class = 'Income tax'", 1],
  ['result', "a.type in ('income', 'expense')", -1],
]

describe('the income statement', () => {
  it.each([
    ['2026-P07', ''],
    ['2025-P12', ''],
    ['2025-P12', 'NQ'],
    ['2024-P11', 'NQ,ID'],
  ])('of %s, branches “%s”, equals the journals by hand: the period, the year to date and the year before', async (period, branches) => {
    const [, year, last] = /^(\d+)-P(\d+)$/.exec(period)!.map(Number) as [number, number, number]
    const codes = (await rows<{ code: string }>('select code from branches order by id')).map(row => row.code)
    const wanted = branches ? [codes[0]!, ...(branches.includes(',') ? [codes[2]!] : [])] : []
    const found = await laid(statement('income'), { period, branches: wanted.join(',') })
    expect(found.problems).toEqual([])
    const only = wanted.length ? `b.code in (${wanted.map(code => `'${code}'`).join(', ')})` : 'true'
    const adjusted = last === 12 ? 'j.period_number in (12, 13)' : `j.period_number = ${last}`
    const until = last === 12 ? 13 : last
    for (const [line, accounts, sign] of classes) {
      const signed = (value: Decimal) => (sign < 0 ? negate(value) : value)
      const own = signed(await activity(accounts, `j.fiscal_year_id = ${year} and ${adjusted}`, only))
      const toDate = signed(await activity(accounts, `j.fiscal_year_id = ${year} and j.period_number <= ${until}`, only))
      const before = signed(await activity(accounts, `j.fiscal_year_id = ${year - 1} and j.period_number <= ${until}`, only))
      const figures = exact(found, line)
      same(figures[0] ?? null, own, `${line} of the period`)
      same(figures[1] ?? null, toDate, `${line} to date`)
      same(figures[2] ?? null, before, `${line} the year before`)
    }
    const [result, margin] = [exact(found, 'grossProfit'), exact(found, 'margin')]
    const income = exact(found, 'totalIncome')
    result.slice(0, 3).forEach((value, at) => same(value, subtract(income[at]!, exact(found, 'costOfSales')[at]!), 'gross profit'))
    expect(margin[3]).not.toBeUndefined()
  })
  it('over twelve periods adds up to the range, across fiscal years', async () => {
    const found = await laid(statement('months'), { period: '2026-P07' })
    expect(found.columns.map(each => each.words).slice(0, 3)).toEqual(['Nov 2025', 'Dec 2025', 'Jan 2026'])
    expect(found.columns[4]!.periods).toEqual(['2025-P12', '2025-P13'])
    for (const [line, accounts, sign] of classes) {
      const all = await activity(accounts, '(j.fiscal_year_id, j.period_number) between (2025, 8) and (2026, 7)')
      same(exact(found, line).at(-1)!, sign < 0 ? negate(all) : all, line)
      same(
        exact(found, line)
          .slice(0, 12)
          .reduce<Decimal>((sum, value) => add(sum, value!), zero),
        sign < 0 ? negate(all) : all,
        `${line}, month by month`,
      )
    }
  })
  it('against the budget is better where income is higher and cost is lower', async () => {
    const found = await laid(statement('budget'), { period: '2026-P05' })
    const planned = async (group: string, numbers: string) =>
      number(
        (
          await rows<{ value: string }>(
            `select sum(case when (a.natural_side = 'credit') = (a.type = 'income') then g.amount else -g.amount end) as value from
              budgets g join accounts a on a.code = g.account_code where version = (select min(version) from budgets) and
              fiscal_year_id = 2026 and ${numbers} and a.class = '${group}'`,
          )
        )[0]!.value,
      )
    for (const [line, group, better] of [
      ['sales', 'Sales', 1],
      ['personnel', 'Personnel', -1],
    ] as const) {
      const figures = exact(found, line)
      same(figures[column(found, 'budget')]!, await planned(group, 'period_number = 5'), `${line}, budget`)
      const difference = subtract(figures[0]!, figures[1]!)
      same(figures[2]!, better > 0 ? difference : negate(difference), `${line}, better or worse`)
    }
  })
  it('has a column for each branch, and they add up to all', async () => {
    const found = await laid(statement('branches'), { period: '2026-P07' })
    expect(found.columns).toHaveLength(4)
    for (const [line] of classes)
      if (found.shaped.rows.some(row => row.line.id === line)) {
        const figures = exact(found, line)
        same(
          figures.slice(0, 3).reduce<Decimal>((sum, value) => add(sum, value!), zero),
          figures[3]!,
          line,
        )
      }
  })
  it('says which accounts with movements stand in no line, with their amounts', async () => {
    const found = await laid(
      statement('income', block => ({
        ...block,
        lines: block.lines.map(line =>
          line.id === 'operatingExpenses' ? { ...line, accounts: 'class "Operating expenses" except 6145' } : line,
        ),
      })),
      { period: '2026-P07' },
    )
    const amount = await activity("a.code = '6145'", 'j.fiscal_year_id = 2026 and j.period_number <= 7')
    expect(found.notices.join(' ')).toContain(
      `1 account with movements stands in no line: 6145 ${Number(decimalText(amount)).toLocaleString('en', { minimumFractionDigits: 2 })}.`,
    )
    const twice = await laid(
      statement('income', block => ({ ...block, lines: [...block.lines, { id: 'again', kind: 'accounts', accounts: '6110' }] })),
      { period: '2026-P07' },
    )
    expect(twice.notices.join(' ')).toContain('1 account stands in more than one line: 6110.')
  })
})

describe('the balance sheet', () => {
  it('balances at every period end and for all branches, and equals the ledger by hand', async () => {
    const codes = (await rows<{ code: string }>('select code from branches order by id')).map(row => row.code)
    const periods = catalog.calendar!.periods.filter(period => period.start <= clock).map(period => period.code)
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...periods), fc.subarray(codes), async (period, branches) => {
        const found = await laid(statement('balance'), { period, branches: branches.join(',') })
        const [assets, both] = [exact(found, 'totalAssets'), exact(found, 'totalBoth')]
        same(assets[0]!, both[0]!, `${period} ${branches.join(' ')}`)
        same(assets[1]!, both[1]!, 'the year before')
        const [, year, number_] = /^(\d+)-P(\d+)$/.exec(period)!.map(Number) as [number, number, number]
        const until = `(j.fiscal_year_id, j.period_number) <= (${year}, ${number_ === 12 ? 13 : number_})`
        const only = branches.length ? `b.code in (${branches.map(code => `'${code}'`).join(', ')})` : 'true'
        same(exact(found, 'currentAssets')[0]!, await activity("a.class = 'Current assets'", until, only), 'current assets')
        same(
          exact(found, 'resultOfYear')[0]!,
          negate(await activity("a.type in ('income', 'expense')", `${until} and j.fiscal_year_id = ${year}`, only)),
          'result of the year',
        )
        // all results of the years before stand in equity, closed or not
        same(
          exact(found, 'equity')[0]!,
          negate(
            add(
              await activity("a.type = 'equity'", until, only),
              await activity("a.type in ('income', 'expense')", `j.fiscal_year_id < ${year}`, only),
            ),
          ),
          'equity',
        )
      }),
      { numRuns: 25 },
    )
  })
  it('is the same before and after the closing of the year', async () => {
    const closed = await laid(statement('balance'), { period: '2026-P03' })
    await db.exec(
      'begin; delete from journal_lines where journal_id in (select id from journals where is_closing); delete from journals where ' +
        'is_closing',
    )
    const open = await laid(statement('balance'), { period: '2026-P03' })
    await db.exec('rollback')
    expect(open.shaped.rows.map(row => row.exact)).toEqual(closed.shaped.rows.map(row => row.exact))
    // and the closing journals themselves say the same of the years that they close
    const kept = number(
      (await rows<{ value: string }>("select sum(credit - debit) as value from journal_lines where account_code = '3900'"))[0]!.value,
    )
    same(negate(await activity("a.type in ('income', 'expense')", 'j.fiscal_year_id < 2026')), kept, 'retained earnings')
  })
})

it('the trial balance shows every account that moves: opening + debit − credit = closing, debits equal credits', async () => {
  const found = await laid(statement('trial'), { period: '2026-P02' })
  const [opening, debit, credit, closing] = exact(found, 'accounts') as Decimal[]
  same(debit!, credit!, 'debits and credits')
  for (const total of [opening!, closing!]) same(total, zero, 'all accounts')
  const accounts = found.shaped.rows.filter(row => row.account)
  const by = await rows<{ code: string; debit: string; credit: string }>(
    'select l.account_code as code, sum(debit) as debit, sum(credit) as credit from journal_lines l join journals j on j.id = ' +
      'l.journal_id where j.fiscal_year_id = 2026 and j.period_number = 2 and not is_closing group by 1',
  )
  for (const { code, debit: debits, credit: credits } of by) {
    const row = accounts.find(each => each.account!.code === code)!
    same(row.exact[1]!, number(debits), `${code} debit`)
    same(row.exact[2]!, number(credits), `${code} credit`)
    same(row.exact[3]!, subtract(add(row.exact[0]!, row.exact[1]!), row.exact[2]!), `${code} closing`)
  }
})

it('the cash flow ends with the change that the bank accounts say', async () => {
  for (const period of ['2026-P07', '2025-P12', '2025-P03']) {
    const found = await laid(statement('cash'), { period })
    exact(found, 'change').forEach((value, at) => same(value, exact(found, 'bank')[at]!, `${period} column ${at}`))
  }
})

it.each(['income', 'months', 'quarters', 'budget', 'branches', 'cash', 'balance'] as const)(
  '%s in whole units: no figure is further from the true one than rounding can be, and results add up',
  async kind => {
    const found = await laid(
      statement(kind, block => ({ ...block, decimals: 0 })),
      { period: '2026-P07' },
    )
    for (const row of found.shaped.rows) {
      if (row.line.format) continue
      row.figures.forEach((value, at) => {
        const percent = ['percent', 'share'].includes(found.columns[at]!.column.kind)
        if (value && !percent)
          expect(
            Math.abs(Number(decimalText(value)) - Number(decimalText(row.exact[at]!))),
            `${row.line.id} ${found.columns[at]!.id}`,
          ).toBeLessThan(2)
      })
    }
    const shown = (line: string, at: number) =>
      Number(decimalText(found.shaped.rows.find(row => row.line.id === line)?.figures[at] ?? zero))
    found.columns.forEach(({ column: { kind: own, favourable } }, at) => {
      if (['percent', 'share'].includes(own) || !found.shaped.rows.some(row => row.line.id === 'grossProfit')) return
      expect(shown('totalIncome', at), `${kind} ${at}`).toBe(shown('sales', at) + shown('services', at))
      // a saving of cost is a gain where better is positive
      expect(shown('grossProfit', at), `${kind} ${at}`).toBe(
        shown('totalIncome', at) - (own === 'difference' && favourable ? -1 : 1) * shown('costOfSales', at),
      )
    })
  },
)

describe('figures in thousands', () => {
  const inThousands = (kind: ReadyStatement, more: Partial<StatementBlock> = {}) =>
    statement(kind, block => ({ ...block, scale: 'thousands', decimals: 0, ...more }))
  it('add up on paper, column by column, and totals are the true ones rounded', async () => {
    const periods = catalog.calendar!.periods.filter(period => period.start <= clock && !period.adjustment).map(period => period.code)
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...periods), fc.constantFrom(0, 1), async (period, decimals) => {
        const found = await laid(
          inThousands('balance', {
            decimals,
            lines: statement('balance').layouts[0]!.blocks.flatMap(block =>
              block.kind === 'statement' ? block.lines.map(line => (line.kind === 'accounts' ? { ...line, expand: true } : line)) : [],
            ),
          }),
          { period },
        )
        const shown = (line: string, at: number) =>
          found.shaped.rows.find(row => row.line.id === line && row.part === 'line')?.figures[at] ?? zero
        for (const at of [0, 1, 2]) {
          same(shown('totalAssets', at), add(shown('currentAssets', at), shown('fixedAssets', at)), 'assets')
          same(shown('totalBoth', at), add(shown('totalLiabilities', at), shown('totalEquity', at)), 'both sides')
          same(shown('totalLiabilities', at), add(shown('currentLiabilities', at), shown('longTermLiabilities', at)), 'liabilities')
          const truth = exact(found, 'totalAssets')[at]!
          same(shown('totalAssets', at), round({ units: truth.units, scale: truth.scale + 3 }, decimals), 'total')
          for (const line of ['currentAssets', 'resultOfYear', 'equity']) {
            const accounts = found.shaped.rows.filter(row => row.line.id === line && row.account)
            if (accounts.length)
              same(
                shown(line, at),
                accounts.reduce<Decimal>((sum, row) => add(sum, row.figures[at]!), zero),
                `accounts of ${line}`,
              )
          }
        }
      }),
      { numRuns: 12 },
    )
  })
})

it('showing the accounts of a line changes no total', async () => {
  const plain = await laid(statement('income'), { period: '2026-P04' })
  const opened = await laid(
    statement('income', block => ({
      ...block,
      zeroAccounts: true,
      lines: block.lines.map(line => (line.kind === 'accounts' ? { ...line, expand: true } : line)),
    })),
    { period: '2026-P04' },
  )
  for (const { line, exact: figures } of plain.shaped.rows) expect(exact(opened, line.id), line.id).toEqual(figures)
  const sales = opened.shaped.rows.filter(row => row.line.id === 'sales' && row.account)
  same(
    sales.reduce<Decimal>((sum, row) => add(sum, row.exact[1]!), zero),
    exact(opened, 'sales')[1]!,
    'its accounts',
  )
  expect(compareDecimals(exact(opened, 'sales')[1]!, zero)).toBe(1)
  expect(sales.length).toBeGreaterThan(7)
})

describe('as of a day', () => {
  const asked = askDay(statement('balance'))
  it('a balance sheet balances and equals the ledger by hand at any date, for any branches', async () => {
    const codes = (await rows<{ code: string }>('select code from branches order by id')).map(row => row.code)
    expect(asked.parameters.map(each => each.name)).toEqual(['asOf', 'branches'])
    expect(askDay(asked)).toBe(asked)
    const [first, last] = [parseDay('2024-05-01')!, clock]
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: first, max: last }), fc.subarray(codes), async (day, branches) => {
        const asOf = dayText(day)
        const found = await laid(asked, { asOf, branches: branches.join(',') })
        expect(found.problems).toEqual([])
        same(exact(found, 'totalAssets')[0]!, exact(found, 'totalBoth')[0]!, `${asOf} ${branches.join(' ')}`)
        const until = `j.posting_date <= '${asOf}'`
        const only = branches.length ? `b.code in (${branches.map(code => `'${code}'`).join(', ')})` : 'true'
        const year = Number(asOf.slice(0, 4)) - (asOf.slice(5) < '04-01' ? 1 : 0)
        same(exact(found, 'totalAssets')[0]!, await activity("a.type = 'asset'", until, only), 'assets')
        same(
          exact(found, 'resultOfYear')[0]!,
          negate(await activity("a.type in ('income', 'expense')", `${until} and j.fiscal_year_id = ${year}`, only)),
          'result of the year',
        )
        same(
          exact(found, 'equity')[0]!,
          negate(
            add(
              await activity("a.type = 'equity'", until, only),
              await activity("a.type in ('income', 'expense')", `${until} and j.fiscal_year_id < ${year}`, only),
            ),
          ),
          'equity',
        )
      }),
      { numRuns: 25 },
    )
  })
  it('says its day in titles', async () => {
    const found = await laid(asked, { asOf: '2026-10-14' })
    const texts = found.pages[0]!.items.flatMap(item => (item.kind === 'text' ? [item.text] : [])).join(' ')
    expect(texts).toContain('as of 14 October 2026')
    expect(texts).toContain('14 Oct 2026')
  })
})

describe('answers of a run', () => {
  it('choose the version of the budget', async () => {
    for (const version of ['original', 'revised']) {
      const found = await laid(statement('budget'), { period: '2026-P06', version })
      const hand = number(
        (
          await rows<{ value: string }>(
            `select sum(amount) as value from budgets g join accounts a on a.code = g.account_code where g.version = '${version}'
              and g.fiscal_year_id = 2026 and g.period_number <= 6 and a.class = 'Personnel'`,
          )
        )[0]!.value,
      )
      same(exact(found, 'personnel')[column(found, 'budgetYear')]!, hand, version)
    }
  })
  it('retained earnings hold the results of all years before, whatever accounts are left out', async () => {
    const equity = async (answers: Record<string, string>, filter?: string) => {
      const definition = statement('trial')
      if (filter) definition.dataSets[0]!.root.filters = [filter]
      const found = await laid(definition, { period: '2026-P06', ...answers })
      const row = found.shaped.rows.find(each => each.account?.code === '3900')
      return found.columns.map((_, at) => decimalText(trim(row?.exact[at] ?? zero)))
    }
    const [before] = await rows(`select sum(l.debit - l.credit)::text as value from journal_lines l join journals j on j.id = l.journal_id
      join accounts a on a.code = l.account_code where not j.is_closing and ((a.type in ('income', 'expense') and j.fiscal_year_id < 2026)
      or (a.code = '3900' and (j.fiscal_year_id < 2026 or j.period_number < 6)))`)
    const whole = await equity({})
    expect(whole[0]).toBe(decimalText(trim(number(before!.value))))
    const ranges: Record<string, string>[] = [
      { fromAccount: '3000', toAccount: '4999' },
      { fromAccount: '3000', toAccount: '3999' },
      { fromAccount: '3900' },
    ]
    for (const range of ranges) expect(await equity(range), JSON.stringify(range)).toEqual(whole)
    expect(await equity({}, 'account_type = "equity"')).toEqual(whole)
    expect(await equity({ branches: 'NQ', fromAccount: '3000', toAccount: '3999' })).toEqual(await equity({ branches: 'NQ' }))
  })
  it('narrow a trial balance to a range of accounts; an open end takes all', async () => {
    const codes = async (answers: Record<string, string>) =>
      (await laid(statement('trial'), { period: '2026-P06', ...answers })).shaped.rows.flatMap(row =>
        row.account ? [row.account.code] : [],
      )
    const all = await codes({})
    expect(await codes({ fromAccount: '6000', toAccount: '6199' })).toEqual(all.filter(code => code >= '6000' && code <= '6199'))
    expect(await codes({ fromAccount: '7000' })).toEqual(all.filter(code => code >= '7000'))
    expect(await codes({ fromAccount: '9990' })).toEqual([])
  })
  it('of a branch without any posting give zero everywhere, and never an error', async () => {
    await db.exec('begin')
    try {
      await db.exec(
        "create temp table pier as select * from branches limit 1; update pier set id = 99, code = 'ZZ', name = 'New Pier'; insert " +
          'into branches select * from pier',
      )
      for (const kind of ['income', 'balance', 'months', 'budget', 'branches', 'cash', 'trial', 'account', 'quarters'] as const) {
        const found = await laid(statement(kind), { period: '2026-P06', branches: 'ZZ' })
        for (const row of found.shaped.rows)
          for (const value of row.exact) if (value) expect(decimalText(trim(value)), `${kind} ${row.line.id}`).toBe('0')
      }
      expect((await laid(statement('branches'), { period: '2026-P06' })).columns.map(each => each.words)).toContain('ZZ')
    } finally {
      await db.exec('rollback')
    }
  })
})

it.each(['2026-P07', '2026-P03', '2025-P12', '2025-P05'])(
  'quarters up to %s equal the journals by hand, five of them across years, and their average',
  async period => {
    const found = await laid(statement('quarters'), { period })
    const [, year, last] = /^(\d+)-P(\d+)$/.exec(period)!.map(Number) as [number, number, number]
    const quarter = Math.floor((last - 1) / 3)
    for (const [line, accounts, sign] of classes) {
      const figures = exact(found, line)
      let sum = zero
      for (let back = 0; back < 5; back++) {
        const at = year * 4 + quarter - back
        const [own, of] = [Math.floor(at / 4), at % 4]
        const until = of === 3 ? 13 : of * 3 + 3
        const hand = await activity(accounts, `j.fiscal_year_id = ${own} and j.period_number between ${of * 3 + 1} and ${until}`)
        same(figures[4 - back] ?? null, sign < 0 ? negate(hand) : hand, `${line}, ${back} quarters back`)
        sum = add(sum, sign < 0 ? negate(hand) : hand)
      }
      expect(Math.abs(Number(decimalText(figures[5] ?? zero)) - Number(decimalText(sum)) / 5)).toBeLessThan(1e-6)
    }
  },
)

it.each([
  ['2026-P07', ''],
  ['2025-P12', 'NQ'],
  ['2025-P02', ''],
])(
  'the account detail of %s, branches “%s”: opening of the year, debits, credits and closing of each account equal the journals',
  async (period, wanted) => {
    const [first] = (await rows<{ code: string }>('select code from branches order by id')).map(row => row.code)
    const found = await laid(statement('account'), { period, branches: wanted ? first! : '' })
    const [, year, last] = /^(\d+)-P(\d+)$/.exec(period)!.map(Number) as [number, number, number]
    const until = last === 12 ? 13 : last
    const by = await rows<{
      code: string
      type: string
      opening: string
      debit: string
      credit: string
    }>(`select a.code, a.type, coalesce(sum(l.debit - l.credit) filter (where j.fiscal_year_id < ${year}), 0)::text as opening,
    coalesce(sum(l.debit) filter (where j.fiscal_year_id = ${year} and j.period_number <= ${until}), 0)::text as debit,
    coalesce(sum(l.credit) filter (where j.fiscal_year_id = ${year} and j.period_number <= ${until}), 0)::text as credit
    from journal_lines l join journals j on j.id = l.journal_id join accounts a on a.code = l.account_code join branches b on b.id
    = l.branch_id where not j.is_closing ${wanted ? `and b.code = '${first}'` : ''} group by 1, 2`)
    const accounts = found.shaped.rows.filter(row => row.part === 'account')
    expect(accounts.length).toBeGreaterThan(20)
    for (const row of accounts) {
      const hand = by.find(each => each.code === row.account!.code)
      const at = (id: string) => row.exact[column(found, id)]!
      same(at('debit'), number(hand?.debit), `${row.account!.code} debit`)
      same(at('credit'), number(hand?.credit), `${row.account!.code} credit`)
      // income and expense begin the year at zero; what they came to before stands in retained earnings
      const result = hand?.type === 'income' || hand?.type === 'expense'
      const kept =
        row.account!.code === '3900'
          ? by
              .filter(each => each.type === 'income' || each.type === 'expense')
              .reduce<Decimal>((sum, each) => add(sum, number(each.opening)), zero)
          : zero
      same(at('opening'), result ? zero : add(number(hand?.opening), kept), `${row.account!.code} opening`)
      same(at('closing'), subtract(add(at('opening'), at('debit')), at('credit')), `${row.account!.code} closing`)
    }
  },
)

it('stands in a repeat for each branch on the records of that branch, a chart of it too', async () => {
  const plain = statement('income')
  const [block] = plain.layouts[0]!.blocks as [StatementBlock]
  const chart: Block = {
    kind: 'chart',
    id: 'chart',
    statement: 'statement',
    left: 0,
    width: 0,
    height: 100,
    after: 0,
    form: 'bars',
    series: [{ line: 'sales' }],
    legend: false,
    figures: true,
  }
  const definition: ReportDefinition = {
    ...plain,
    parameters: plain.parameters.slice(0, 1),
    tables: [{ kind: 'ledger', name: 'books', filters: [] }],
    dataSets: [
      {
        ...plain.dataSets[0]!,
        root: level('branch', 'branches', {
          fields: ['code', 'name'],
          details: [level('figures', '@books', { on: [{ from: 'code', to: 'branch' }], fields: ['account', 'period', 'debit', 'credit'] })],
        }),
      },
    ],
    layouts: [
      {
        name: 'Standard',
        page: plain.layouts[0]!.page,
        blocks: [
          {
            kind: 'repeat',
            id: 'each',
            level: 'branch',
            newPage: true,
            restartNumbers: false,
            after: 0,
            outline: '{{ name }}',
            blocks: [block, chart],
          },
        ],
      },
    ],
  }
  const { pages, problems } = await layReport(db, catalog, definition, { period: '2026-P06' })
  expect(problems).toEqual([])
  const branches = await rows<{ code: string; name: string }>('select code, name from branches order by id')
  expect(pages.map(page => page.label)).toEqual(branches.map(branch => branch.name))
  for (const [index, { code }] of branches.entries()) {
    const texts = pages[index]!.items.flatMap(item => (item.kind === 'text' ? [item.text] : []))
    const sales = Number(
      decimalText(negate(await activity("a.class = 'Sales'", 'j.fiscal_year_id = 2026 and j.period_number <= 6', `b.code = '${code}'`))),
    )
    const printed = sales.toLocaleString('en', { minimumFractionDigits: 2, maximumFractionDigits: 2 })
    // in the statement and above its bar
    expect(
      texts.filter(text => text === printed),
      code,
    ).toHaveLength(2)
  }
})

it.each([
  ['figures', 10],
  ['sums', 2],
] as const)('the currency stands at %s, before the minus it belongs to; in the titles otherwise', async (currencyAt, least) => {
  const found = await laid(
    statement('income', block => ({ ...block, currency: 'EUR', currencyAt })),
    { period: '2026-P07' },
  )
  const texts = found.pages[0]!.items.flatMap(item => (item.kind === 'text' ? [item.text] : []))
  const signed = texts.filter(text => /^−?EUR [\d,]+\.\d\d$/.test(text))
  expect(signed.length).toBeGreaterThan(least)
  expect(texts.some(text => /^−EUR /.test(text))).toBe(true)
  const sales = negate(await activity("a.class = 'Sales'", 'j.fiscal_year_id = 2026 and j.period_number = 7'))
  expect(texts.includes(`EUR ${Number(decimalText(sales)).toLocaleString('en', { minimumFractionDigits: 2 })}`)).toBe(
    currencyAt === 'figures',
  )
  expect(texts).not.toContain('EUR')
  const plain = await laid(
    statement('income', block => ({ ...block, currency: 'EUR', scale: 'thousands' })),
    { period: '2026-P07' },
  )
  expect(plain.pages[0]!.items.flatMap(item => (item.kind === 'text' ? [item.text] : []))).toContain('EUR, in thousands')
})

it('a chart of percentages is the same in units and in thousands; one of amounts is as high too, on an axis of thousands', async () => {
  const bars = async (scale: 'units' | 'thousands', column: string) => {
    const plain = statement('income', block => ({ ...block, scale, decimals: 0 }))
    const chart: Block = {
      kind: 'chart',
      id: 'chart',
      statement: 'statement',
      left: 0,
      width: 0,
      height: 100,
      after: 0,
      form: 'bars',
      series: [
        { line: 'sales', colour: '#123456' },
        { line: 'personnel', colour: '#654321' },
      ],
      columns: [column],
      legend: false,
      figures: false,
    }
    const { pages } = await laid(
      { ...plain, layouts: [{ ...plain.layouts[0]!, blocks: [chart, ...plain.layouts[0]!.blocks] }] },
      { period: '2026-P07' },
    )
    return pages[0]!.items.flatMap(item => (item.kind === 'fill' && ['#123456', '#654321'].includes(item.colour) ? [item.height] : []))
  }
  for (const column of ['percent', 'toDate']) {
    const [units, thousands] = [await bars('units', column), await bars('thousands', column)]
    expect(units).toHaveLength(2)
    units.forEach((height, index) => expect(thousands[index]).toBeCloseTo(height, 6))
  }
})

it('the steps from the budget to the actual running costs are what SQL gives, and their statement is not printed', async () => {
  const { pages } = await composeReport(db, catalog, budgetSteps(), { period: '2026-P05' })
  const marks = pages.flatMap(page => page.boxes).filter(box => box.block === 'steps' && box.label && box.cell)
  const steps = marks.map(box => box.label!.split(' · ') as [string, string])
  const classNames = ['Personnel', 'Operating expenses', 'Depreciation']
  const found = await rows<{ name: string; planned: string; spent: string }>(
    `select a.class as name,
       coalesce((select sum(g.amount) from budgets g join accounts o on o.code = g.account_code where o.class = a.class and
         g.version = (select min(version) from budgets) and g.fiscal_year_id = 2026 and g.period_number = 5), 0)::text as planned,
       coalesce((select sum(l.debit - l.credit) from journal_lines l join journals j on j.id = l.journal_id join accounts o on
         o.code = l.account_code where o.class = a.class and not j.is_closing and j.fiscal_year_id = 2026 and j.period_number = 5), 0)::text
         as spent
     from accounts a where a.class = any($1) group by a.class`,
    [classNames],
  )
  const figure = (text: string) => Number(text.replaceAll(',', '').replace('−', '-'))
  const total = (key: 'planned' | 'spent') => found.reduce((sum, each) => sum + Number(each[key]), 0)
  expect(found).toHaveLength(3)
  expect(steps).toHaveLength(5)
  expect(figure(steps[0]![1])).toBeCloseTo(total('planned'), -0.5)
  expect(figure(steps.at(-1)![1])).toBeCloseTo(total('spent'), -0.5)
  for (const { name, planned, spent } of found)
    expect(Math.abs(figure(steps.find(([own]) => own === name)![1]) - (Number(spent) - Number(planned))), name).toBeLessThan(1.01)
  expect(pages.flatMap(page => page.boxes).filter(box => box.block === 'statement')).toEqual([])
})
