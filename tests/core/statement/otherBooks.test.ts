import type { PGlite } from '@electric-sql/pglite'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { statementReport } from '../../../core/templates/draft'
import { applySettings, noSettings } from '../../../core/books/settings'
import type { Catalog } from '../../../core/books/catalog'
import { changeStatement } from '../../../core/definition/edits/statement'
import type { LaidStatement } from '../../../core/compose/statement/lay'
import type { LedgerMap } from '../../../core/books/ledger'
import { ledgerWords } from '../../../core/books/chart'
import { decimalText, parseDecimal, trim, zero } from '../../../core/value/decimal'
import { dayText } from '../../../core/value/date'
import { layReport } from '../../statements'
import { demoDatabase, plainFetch } from '../../support'
import { readCatalog } from '../../../server/sources/embedded/introspect'
import { checkLedger } from '../../../core/sql/ledgerChecks'

/**
 * Books of quite another shape: one signed amount, dates in the lines, no periods, words of their own, a tree of accounts, a site nothing
 * was ever posted for.
 */
const words = { W: 'asset', S: 'liability', K: 'equity', E: 'income', A: 'expense' } as const
let db: PGlite
let catalog: Catalog
let map: LedgerMap
beforeAll(async () => {
  db = (await demoDatabase()).db
  await db.exec(`create schema other; set search_path to other;
    create table konten (nr text primary key, text_name text not null, sorte text not null, gruppe text, ueber text);
    create table sites (id integer primary key, code text not null, name text not null);
    create table moves (id integer primary key, konto text not null references konten, valuta date not null, wert numeric(12,2) not
    null, site integer not null references sites, abschluss boolean not null);
    insert into sites values (1, 'A', 'Alpha'), (2, 'B', 'Beta'), (3, 'C', 'Empty');
    insert into konten values ('100', 'Cash', 'W', 'Current', null), ('200', 'Loan', 'S', 'Debt', null), ('300', 'Capital', 'K',
    'Own', null), ('390', 'Earnings kept', 'K', 'Own', null),
      ('400', 'Sales', 'E', 'Sales', null), ('410', 'Sales, "north" & co', 'E', 'Sales', '400'), ('420', 'Sales, south', 'E',
      'Sales', '400'), ('500', 'Costs', 'A', 'Costs', null), ('510', 'Rent', 'A', 'Costs', '500'), ('511', 'Power', 'A', 'Costs',
      '510'), ('590', 'Never moved', 'A', 'Costs', '500');
    insert into moves select n, (array['410', '420', '510', '511', '400', '200'])[1 + n % 6], date '2024-01-05' + n * 3 % 1000, ((n
    * 7919) % 100000)::numeric / 100 * case when n % 6 in (2, 3) then 1 else -1 end, 1 + n % 2, false from generate_series(1, 900) n;
    insert into moves select 10000 + id, '100', valuta, -wert, site, false from moves;
    -- a year is closed
    insert into moves select 30000 + row_number() over (), konto, date '2024-12-31', -sum(wert), site, true from moves where konto
    >= '400' and valuta < '2025-01-01' group by konto, site;
    insert into moves select 40000 + site, '390', date '2024-12-31', sum(wert), site, true from moves where konto >= '400' and
    valuta < '2025-01-01' and not abschluss group by site`)
  const bare = await readCatalog(db, 'other')
  map = {
    accounts: { table: 'konten', code: 'nr', name: 'text_name', type: 'sorte', class: 'gruppe', parent: 'ueber' },
    lines: { table: 'moves', account: 'konto', amount: 'wert', branch: 'site' },
    date: 'valuta',
    closing: 'abschluss',
    branches: {
      table: 'sites',
      key: 'id',
      code: 'code',
      name: 'name',
      units: [
        { code: 'A', name: 'Alpha' },
        { code: 'B', name: 'Beta' },
        { code: 'C', name: 'Empty' },
      ],
    },
    types: { ...words },
    retainedEarnings: '390',
  }
  map = {
    ...map,
    ...ledgerWords(
      (
        await db.query<{ code: string; name: string; type: string; class: string }>(
          'select nr as code, text_name as name, sorte as type, gruppe as class from konten order by 1',
        )
      ).rows,
      map,
    ),
  }
  expect(bare.ledger).toBeUndefined()
  const days = (await db.query<{ first: string; last: string }>('select min(valuta)::text as first, max(valuta)::text as last from moves'))
    .rows[0]!
  catalog = applySettings(
    { ...bare, posted: { first: Date.parse(days.first) / 86_400_000, last: Date.parse(days.last) / 86_400_000 } },
    { ...noSettings, ledger: map, fiscalYear: { kind: 'weeks', pattern: '4-4-5', month: 12, weekday: 0, end: 'last' } },
  )
})
const figure = ({ shaped, columns }: LaidStatement, line: string, column: string) =>
  decimalText(
    trim(
      shaped.rows.find(row => row.line.id === line && row.part === 'line')?.exact[columns.findIndex(each => each.id === column)] ?? zero,
    ),
  )
const byHand = async (where: string) =>
  decimalText(
    trim(
      parseDecimal(
        (await db.query<{ sum: string | null }>(`select coalesce(sum(wert), 0)::text as sum from moves where not abschluss and ${where}`))
          .rows[0]!.sum!,
      )!,
    ),
  )
const negated = (text: string) => (text === '0' ? '0' : text.startsWith('-') ? text.slice(1) : `-${text}`)

describe('books that somebody said where they are, in fiscal years of weeks', () => {
  it('are checked in sentences', async () => {
    const found = (await checkLedger(map, 'other', plainFetch(db), catalog.calendar)).map(
      each => `${each.holds ? '+' : '-'} ${each.sentence}`,
    )
    expect(found).toEqual([
      expect.stringMatching(/^\+ All \d+ days of postings balance\.$/),
      '+ They balance within each branch too.',
      '+ Every line of moves finds its account.',
      '+ All 11 accounts have a type that is known: W, S, K, E, A.',
      expect.stringMatching(/^\+ All of them lie in a period/),
      '+ Results are kept in account 390.',
    ])
  })
  it('give income statements and balance sheets that equal the postings by hand, at any period', async () => {
    const periods = catalog.calendar!.periods.filter(period => period.start >= catalog.posted!.first && period.end <= catalog.posted!.last)
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...periods), async period => {
        const year = catalog.calendar!.periods.find(each => each.year === period.year)!
        const [start, end, from] = [dayText(period.start), dayText(period.end), dayText(year.start)]
        const income = await layReport(db, catalog, statementReport('income', catalog, 'other', 'x'), { period: period.code }, 'other')
        expect(income.problems).toEqual([])
        expect(figure(income, 'sales', 'actual')).toBe(negated(await byHand(`konto like '4%' and valuta between '${start}' and '${end}'`)))
        expect(figure(income, 'sales', 'toDate')).toBe(negated(await byHand(`konto like '4%' and valuta between '${from}' and '${end}'`)))
        const balance = await layReport(db, catalog, statementReport('balance', catalog, 'other', 'x'), { period: period.code }, 'other')
        expect(figure(balance, 'totalAssets', 'now')).toBe(await byHand(`konto = '100' and valuta <= '${end}'`))
        expect(figure(balance, 'totalBoth', 'now')).toBe(figure(balance, 'totalAssets', 'now'))
        expect(figure(balance, 'resultOfYear', 'now')).toBe(
          negated(await byHand(`konto >= '400' and valuta between '${from}' and '${end}'`)),
        )
      }),
      { numRuns: 12 },
    )
  })
  it('have a column for each branch, zero where nothing was ever posted', async () => {
    const found = await layReport(db, catalog, statementReport('branches', catalog, 'other', 'x'), { period: '2025-P06' }, 'other')
    expect(found.columns.map(each => each.words)).toEqual(['Alpha', 'Beta', 'Empty', expect.anything()])
    expect(figure(found, 'sales', 'branch#3')).toBe('0')
    expect(found.shaped.rows.find(row => row.line.id === 'sales')!.exact[2]).not.toBeNull()
  })
})

describe('a tree of accounts', () => {
  const lines = (expand: 'tree' | true, accounts = 'type expense, type income', scale: 'units' | 'thousands' = 'units') =>
    changeStatement(statementReport('income', catalog, 'other', 'x'), 'statement', block => ({
      ...block,
      scale,
      decimals: scale === 'units' ? 2 : 0,
      lines: [{ id: 'all', kind: 'accounts', caption: 'All', accounts, sign: 'debit', expand }],
    }))
  it('is chosen from by “under”, with the account itself and those under those under it', async () => {
    const found = await layReport(db, catalog, lines(true, 'under 500'), { period: '2025-P06' }, 'other')
    expect(found.shaped.rows.filter(row => row.part === 'account').map(row => row.account!.code)).toEqual(['510', '511'])
    expect(figure(found, 'all', 'toDate')).toBe(await byHand("konto like '5%' and valuta between '2024-12-30' and '2025-06-29'"))
  })
  it.each(['units', 'thousands'] as const)('stands with its headings, each ending with the sum of what is under it (%s)', async scale => {
    const found = await layReport(db, catalog, lines('tree', undefined, scale), { period: '2025-P06' }, 'other')
    const rows = found.shaped.rows.map(row => `${'.'.repeat(row.above?.length ?? 0)}${row.account?.code ?? 'all'} ${row.part}`)
    expect(rows).toEqual([
      'all opens',
      '400 heading',
      '.400 account',
      '.410 account',
      '.420 account',
      '400 ends',
      '500 heading',
      '.510 heading',
      '..510 account',
      '..511 account',
      '.510 ends',
      '500 ends',
      'all line',
    ])
    const at = (code: string, part: string) => found.shaped.rows.find(row => row.account?.code === code && row.part === part)!
    const flat = await layReport(db, catalog, lines(true, undefined, scale), { period: '2025-P06' }, 'other')
    for (const column of [0, 1, 2]) {
      const printed = (row: { figures: readonly unknown[] }) => Number(decimalText(row.figures[column] as never))
      expect(printed(at('510', 'ends'))).toBeCloseTo(printed(at('510', 'account')) + printed(at('511', 'account')), 6)
      expect(printed(at('500', 'ends'))).toBeCloseTo(printed(at('510', 'ends')), 6)
      expect(printed(at('400', 'ends')) + printed(at('500', 'ends'))).toBeCloseTo(printed(found.shaped.rows.at(-1)!), 6)
      expect(found.shaped.rows.at(-1)!.figures[column]).toEqual(flat.shaped.rows.at(-1)!.figures[column])
    }
    // a percentage of a heading is worked out from its sums
    const percent = found.columns.findIndex(each => each.column.kind === 'percent')
    const [now, before] = [1, 2].map(column => Number(decimalText(at('400', 'ends').exact[column]!)))
    expect(Math.abs(Number(decimalText(at('400', 'ends').exact[percent]!)))).toBeCloseTo(Math.abs((now! - before!) / before!), 6)
  })
})
