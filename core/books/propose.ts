import type { AccountNature, LedgerMap, LedgerTables, UnitTable } from './ledger'
import { type CatalogTable, findTable, type TableCatalog } from '../catalog/types'

/** Words for types of accounts, as they stand in ledgers. */
export const typeWords: Record<AccountNature, RegExp> = {
  asset: /^(assets?|a)$/i,
  liability: /^(liabilit(y|ies)|l)$/i,
  equity: /^(equity|capital|e|q)$/i,
  income: /^(income|revenues?|sales|i|r)$/i,
  expense: /^(expenses?|costs?|x)$/i,
}

const column = (table: CatalogTable, test: RegExp, type?: string) =>
  table.columns.find(each => test.test(each.name) && (!type || each.type === type))?.name
const single = (catalog: TableCatalog, from: string, to: string) =>
  catalog.foreignKeys.find(key => key.from.table === from && key.to.table === to && key.from.columns.length === 1)?.from.columns[0]
const given = <K extends string>(key: K, value: string | undefined) =>
  (value === undefined ? {} : { [key]: value }) as Partial<Record<K, string>>

/** Columns of a table of accounts, as far as names tell; none where it has no code, name or type. */
export function proposeAccounts(catalog: TableCatalog, table: CatalogTable): LedgerMap['accounts'] | undefined {
  const [code, name, type] = [
    column(table, /^(code|number|account(_(code|number|no))?)$/, 'text'),
    column(table, /name|description|title/, 'text'),
    column(table, /type|kind|nature/, 'text'),
  ]
  if (!code || !name || !type) return undefined
  return {
    table: table.name,
    code,
    name,
    type,
    ...given('class', column(table, /class|group|categor/, 'text')),
    ...given('side', column(table, /side|normal|natural/, 'text')),
    ...given('parent', single(catalog, table.name, table.name) ?? column(table, /^(parent|under|above|heading)/, 'text')),
  }
}

/** Columns of a table of journal lines; none where it does not point at the accounts, or has no amounts. */
export function proposeLines(catalog: TableCatalog, table: CatalogTable, accounts: string): LedgerMap['lines'] | undefined {
  const account = single(catalog, table.name, accounts) ?? column(table, /account/, 'text')
  const [debit, credit, amount] = [
    column(table, /debit/, 'number'),
    column(table, /credit/, 'number'),
    column(table, /^amount$|base_amount/, 'number'),
  ]
  if (!account || !((debit && credit) || amount)) return undefined
  const unit = (test: RegExp) =>
    catalog.foreignKeys.find(each => each.from.table === table.name && each.from.columns.length === 1 && test.test(each.to.table))?.from
      .columns[0]
  return {
    table: table.name,
    account,
    ...(debit && credit ? { debit, credit } : { amount: amount! }),
    ...given('branch', unit(/branch|company|site|store/i)),
    ...given('department', unit(/depart|cost_cent/i)),
  }
}

/**
 * Where lines find their date, period and closing mark: in the journal they belong to, or in themselves; nothing where there is no date.
 */
export function proposeJournals(
  catalog: TableCatalog,
  lines: string,
  journals?: string,
): Pick<LedgerMap, 'journals' | 'date' | 'period' | 'closing'> | undefined {
  const above = catalog.foreignKeys.find(
    key =>
      key.from.table === lines &&
      (journals === undefined ? /journal|entr|voucher|transaction/i.test(key.to.table) : key.to.table === journals),
  )
  const head = findTable(catalog, above?.to.table ?? lines)
  const date = head && (column(head, /posting_date|date|posted/, 'date') ?? head.columns.find(each => each.type === 'date')?.name)
  if (!head || !date) return undefined
  const [year, number, closing] = [column(head, /year/, 'number'), column(head, /period/, 'number'), column(head, /clos/, 'boolean')]
  return {
    ...(above
      ? { journals: { table: head.name, on: above.from.columns.map((from, index) => ({ from, to: above.to.columns[index]! })) } }
      : {}),
    date,
    ...(year && number ? { period: { year, number } } : {}),
    ...given('closing', closing),
  }
}

/** What a column of the lines points at, as branch or department. */
export function unitOf(catalog: TableCatalog, lines: string, name: string | undefined): UnitTable | undefined {
  const key = catalog.foreignKeys.find(each => each.from.table === lines && each.from.columns.length === 1 && each.from.columns[0] === name)
  const table = key && findTable(catalog, key.to.table)
  if (!key || !table) return undefined
  const own = key.to.columns[0]!
  return { table: table.name, key: own, code: column(table, /^(code|number)$/, 'text') ?? own, name: column(table, /name/, 'text') ?? own }
}

/** Columns of a table of budgets; none where it lacks account, amount, year or period. */
export function proposeBudgets(
  catalog: TableCatalog,
  table: CatalogTable,
  accounts: string,
  branches: string | undefined,
): LedgerMap['budgets'] | undefined {
  const [account, amount, year, number] = [
    single(catalog, table.name, accounts) ?? column(table, /account/, 'text'),
    column(table, /amount|value/, 'number'),
    column(table, /year/, 'number'),
    column(table, /period/, 'number'),
  ]
  if (!account || !amount || !year || !number) return undefined
  return {
    table: table.name,
    account,
    amount,
    ...given('version', column(table, /version|scenario/, 'text')),
    ...given('branch', branches === undefined ? undefined : single(catalog, table.name, branches)),
    period: { year, number },
    sign: 'natural',
  }
}

/** The books of a source, as far as tables, keys and names tell. */
export function proposeLedger(catalog: TableCatalog): LedgerTables | undefined {
  for (const chart of catalog.tables) {
    const accounts = /account/i.test(chart.name) ? proposeAccounts(catalog, chart) : undefined
    if (!accounts) continue
    for (const table of catalog.tables) {
      if (!single(catalog, table.name, accounts.table)) continue
      const lines = proposeLines(catalog, table, accounts.table)
      if (!lines || !(lines.debit || /ledger|journal|entr|posting/i.test(table.name))) continue
      const head = proposeJournals(catalog, table.name)
      if (head)
        return {
          accounts,
          lines,
          ...head,
          ...units(catalog, lines),
          ...budgetsOf(catalog, accounts.table, unitOf(catalog, table.name, lines.branch)?.table),
        }
    }
  }
  return undefined
}

const units = (catalog: TableCatalog, lines: LedgerMap['lines']): Pick<LedgerMap, 'branches' | 'departments'> => {
  const [branches, departments] = [unitOf(catalog, lines.table, lines.branch), unitOf(catalog, lines.table, lines.department)]
  return { ...(branches ? { branches } : {}), ...(departments ? { departments } : {}) }
}
function budgetsOf(catalog: TableCatalog, accounts: string, branches: string | undefined): Pick<LedgerMap, 'budgets'> {
  for (const table of catalog.tables) {
    const budgets =
      /budget/i.test(table.name) && single(catalog, table.name, accounts) ? proposeBudgets(catalog, table, accounts, branches) : undefined
    if (budgets) return { budgets }
  }
  return {}
}
