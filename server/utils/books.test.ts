import { ownContext } from '../access/context'
import { sourceId, schema as sourceSchema } from '../../demo/source'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { statementReport } from '../../core/templates/draft'
import { applySettings, noSettings } from '../../core/books/settings'
import type { LedgerMap } from '../../core/books/ledger'
import { dayText } from '../../core/value/date'
import { decimalText, trim } from '../../core/value/decimal'
import { valueAt } from '../../core/value/columns'
import { demoData, tester, askCompany } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import { booksOf } from './books'

let estante: Estante
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())
const one = async (text: string) => {
  const rows = await askCompany(estante, { text, values: [], columns: [{ path: 'value', type: 'number', scale: 2 }] })
  return decimalText(trim(valueAt(rows.columns[0]!, 0) as never))
}
/** A bare map: what only rows can tell is left out. */
const plain = ({ classes: _, versions: __, ...map }: LedgerMap): LedgerMap => JSON.parse(JSON.stringify(map)) as LedgerMap

describe('the books of a source', () => {
  it('as found: classes in the order of codes, branches by name, versions of the budget, and all checks hold', async () => {
    const books = await booksOf(tester, estante, '', noSettings)
    expect(books).toMatchObject({
      ownPeriods: true,
      checks: expect.arrayContaining([{ holds: true, sentence: 'They balance within each branch too.' }]),
    })
    expect(books.checks.every(each => each.holds)).toBe(true)
    expect(books.found).toBeUndefined()
    expect(books.ledger!.versions).toEqual(['original', 'revised'])
    expect(books.ledger!.branches!.units!.map(unit => unit.name)).toEqual(['North Quay', 'Boatyard Road', 'Island Depot'])
    expect(books.ledger!.accounts.parent).toBe('parent_code')
  })
  it('as somebody says: tried before it is kept, and told where a table or column does not exist', async () => {
    const found = (await booksOf(tester, estante, '', noSettings)).ledger!
    const other = await booksOf(tester, estante, '', { ledger: { ...plain(found), types: { ...found.types, equity: 'liability' } } })
    expect(other.ledger!.classes!.find(each => each.name === 'Equity')!.nature).toBe('liability')
    expect(other.found!.types.equity).toBe('equity')
    await expect(booksOf(tester, estante, '', { ledger: { ...plain(found), date: 'posted_on' } })).rejects.toThrow(
      'The source does not have the column “posted_on” of “journals”; choose another.',
    )
    await expect(
      booksOf(tester, estante, '', { ledger: { ...plain(found), budgets: { ...found.budgets!, table: 'plans' } } }),
    ).rejects.toThrow('the table “plans”')
  })
  it('kept, but of a column that is gone since: set aside, said, and to be gone back from', async () => {
    const found = (await booksOf(tester, estante, '', noSettings)).ledger!
    const books = await booksOf(tester, estante, '', { ledger: { ...plain(found), date: 'posted_on' } }, true)
    expect(books.checks[0]).toEqual({
      holds: false,
      sentence:
        'What was said about the books names the column “posted_on” of “journals”, which the source does not have any more; they ' +
        'are taken as they are found.',
    })
    expect(books.ledger!.date).toBe('posting_date')
    expect(books.found!.date).toBe('posting_date')
  })
  it('kept with fiscal years of weeks, all reports stand on them; forgotten, on what was found', async () => {
    const found = (await estante.sources.catalog(ownContext, '')).catalog.ledger!
    await estante.sources.saveSettings(tester, '', {
      ...(await estante.store.settings(tester, sourceId)).value,
      ledger: plain(found),
      fiscalYear: { kind: 'weeks', pattern: '5-4-4', month: 3, weekday: 6, end: 'last' },
    })
    const catalog = (await estante.sources.catalog(ownContext, '')).catalog
    expect(catalog.ledger!.period).toBeUndefined()
    expect(catalog.ledger!.branches!.units).toHaveLength(3)
    const period = catalog.calendar!.periods.find(each => each.code === '2025-P03')!
    const run = await estante.checkedInput(tester, 'Weeks', statementReport('income', catalog, 'caisvelho', 'Weeks'), {
      period: period.code,
    })
    const preview = await estante.pool.tieOuts(tester, {
      ...run,
      definition: {
        ...run.definition,
        tieOuts: [
          {
            id: 'a',
            name: 'a',
            left: { is: 'line', statement: 'statement', line: 'totalIncome', column: 'actual' },
            right: { is: 'formula', dataSet: run.definition.dataSets[0]!.name, formula: '0' },
            tolerance: '0',
          },
        ],
      },
    })
    const hand = await one(
      `select sum(l.credit - l.debit) as value from ${sourceSchema}.journal_lines l join ${sourceSchema}.journals j on j.id =
        l.journal_id join ${sourceSchema}.accounts a on a.code = l.account_code where not j.is_closing and a.class in ('Sales',
        'Services', 'Other income') and j.posting_date between '${dayText(period.start)}' and '${dayText(period.end)}'`,
    )
    expect(preview[0]!.left).toBe(hand)
    await estante.sources.saveSettings(tester, '', noSettings)
    expect((await estante.sources.catalog(ownContext, '')).catalog.ledger!.period).toEqual({
      year: 'fiscal_year_id',
      number: 'period_number',
    })
  })
  it('a branch opened later is there without anything being said', async () => {
    const bare = await estante.sources.get('').catalog(tester)
    const said = applySettings(bare, {
      ...noSettings,
      ledger: { ...plain(bare.ledger!), branches: { table: 'branches', key: 'id', code: 'code', name: 'name', units: [] } },
    })
    expect(said.ledger!.branches!.units).toEqual([])
    await estante.sources.saveSettings(tester, '', { ...noSettings, ledger: said.ledger! })
    expect((await estante.sources.catalog(ownContext, '')).catalog.ledger!.branches!.units).toHaveLength(3)
    await estante.sources.saveSettings(tester, '', noSettings)
  })
})
