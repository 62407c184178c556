import { expect, it } from 'vitest'
import { parseDay } from '../value/date'
import { ledgerLack, type LedgerMap } from './ledger'
import { applySettings, noSettings, readSettings } from './settings'
import type { Catalog } from './catalog'

const column = (name: string, type: 'text' | 'number' | 'date' = 'text') => ({ name, type, databaseType: type, required: true })
const map: LedgerMap = {
  accounts: { table: 'chart', code: 'no', name: 'label', type: 'sort' },
  lines: { table: 'moves', account: 'no', amount: 'value' },
  date: 'day',
  period: { year: 'y', number: 'p' },
  types: { A: 'asset', E: 'equity' },
  retainedEarnings: '300',
}
const catalog: Catalog = {
  tables: [
    { schema: 's', name: 'chart', columns: [column('no'), column('label'), column('sort')], primaryKey: ['no'], rowEstimate: 0 },
    {
      schema: 's',
      name: 'moves',
      columns: [column('no'), column('value', 'number'), column('day', 'date'), column('y', 'number'), column('p', 'number')],
      primaryKey: [],
      rowEstimate: 0,
    },
  ],
  foreignKeys: [],
  posted: { first: parseDay('2025-02-03')!, last: parseDay('2026-10-31')! },
}

it('books that somebody said stand in the place of those found, as long as their tables and columns exist', () => {
  const settings = readSettings({ ...noSettings, ledger: map })
  expect(applySettings(catalog, settings).ledger).toEqual(map)
  const renamed = {
    ...catalog,
    tables: catalog.tables.map(table => ({ ...table, columns: table.columns.filter(each => each.name !== 'value') })),
  }
  expect(applySettings(renamed, settings).ledger).toBeUndefined()
  expect(ledgerLack(map, renamed)).toBe('the column “value” of “moves”')
})
it('fiscal years by a rule reach over all postings, which then stand in the period of their date', () => {
  const settings = readSettings({
    ...noSettings,
    ledger: map,
    fiscalYear: { kind: 'weeks', pattern: '4-4-5', month: 12, weekday: 0, end: 'last' },
  })
  const { calendar, ledger } = applySettings(catalog, settings)
  expect(ledger!.period).toBeUndefined()
  expect(calendar!.periods[0]!.start <= catalog.posted!.first && calendar!.periods.at(-1)!.end >= catalog.posted!.last).toBe(true)
})
it.each([
  [{ ledger: { ...map, lines: { table: 'moves', account: 'no' } } }, 'journal lines have debit and credit, or one amount'],
  [{ ledger: { ...map, types: { A: 'money' } } }, 'a type of accounts means one of asset, liability'],
  [{ ledger: { ...map, more: 1 } }, 'more'],
  [{ fiscalYear: { kind: 'weeks', pattern: '5-5-5', month: 12, weekday: 0, end: 'last' } }, 'pattern'],
  [{ fiscalYear: { kind: 'months', month: 13 } }, 'month'],
])('refuses %j', (more, word) => {
  expect(() => readSettings({ ...noSettings, ...more })).toThrow(word)
})
