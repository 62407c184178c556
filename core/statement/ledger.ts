import { type Catalog, type CatalogTable, findTable } from '../catalog/types'
import type { JoinPair } from '../definition/types'

export const accountNatures = ['asset', 'liability', 'equity', 'income', 'expense'] as const
export type AccountNature = (typeof accountNatures)[number]

/** Is more of it a debit? Contra accounts follow their type, not their own side. */
export const debitNatured = (nature: AccountNature | undefined) => nature === 'asset' || nature === 'expense'

/** A period by the columns that name it, as the table of periods does. */
export interface PeriodColumns {
  year: string
  number: string
}
/** Branches or departments: what a line points at, and how it is called; `units` are those that the table holds, in its order. */
export interface UnitTable {
  table: string
  key: string
  code: string
  name: string
  units?: { code: string; name: string }[]
}

/** Where a source keeps its books; said once per source. Columns are those of the table named beside them. */
export interface LedgerMap {
  accounts: {
    table: string
    code: string
    name: string
    type: string
    class?: string
    /** the side on which an account grows: “credit”, “C” … */ side?: string
    /** code of the account that it stands under, in a tree of accounts */ parent?: string
  }
  /** either debit and credit, or one amount (debit positive) */
  lines: { table: string; account: string; debit?: string; credit?: string; amount?: string; branch?: string; department?: string }
  /** where lines find their date and period; they have them themselves where there is none */
  journals?: { table: string; on: JoinPair[] }
  date: string
  /** absent: the period is that of the date */
  period?: PeriodColumns
  /** yes for journals that close a year */
  closing?: string
  /** what the source's words for types of accounts mean */
  types: Record<string, AccountNature>
  /** classes of accounts in the order of their codes, with what they hold; a class of income and expense is both */
  classes?: { name: string; nature: AccountNature | 'result' }[]
  /** codes of bank and cash accounts */
  cash?: string[]
  /** versions of the budget that there are */
  versions?: string[]
  /** code of the account that a year's result is closed into */
  retainedEarnings: string
  branches?: UnitTable
  departments?: UnitTable
  budgets?: {
    table: string
    account: string
    amount: string
    version?: string
    branch?: string
    period: PeriodColumns
    /** which sign a budget of income has: as its account, or as debits and credits */ sign: 'natural' | 'debit'
  }
}

/** Words for types of accounts, as they stand in ledgers. */
export const typeWords: Record<AccountNature, RegExp> = {
  asset: /^(assets?|a)$/i,
  liability: /^(liabilit(y|ies)|l)$/i,
  equity: /^(equity|capital|e|q)$/i,
  income: /^(income|revenues?|sales|i|r)$/i,
  expense: /^(expenses?|costs?|x)$/i,
}

/** The map without what only the rows can tell: see ledgerWords. */
export type LedgerTables = Omit<LedgerMap, 'types' | 'retainedEarnings' | 'classes' | 'cash'>

const column = (table: CatalogTable, test: RegExp, type?: string) =>
  table.columns.find(each => test.test(each.name) && (!type || each.type === type))?.name
const single = (catalog: Catalog, from: string, to: string) =>
  catalog.foreignKeys.find(key => key.from.table === from && key.to.table === to && key.from.columns.length === 1)?.from.columns[0]
const given = <K extends string>(key: K, value: string | undefined) =>
  (value === undefined ? {} : { [key]: value }) as Partial<Record<K, string>>

/** Columns of a table of accounts, as far as names tell; none where it has no code, name or type. */
export function proposeAccounts(catalog: Catalog, table: CatalogTable): LedgerMap['accounts'] | undefined {
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
export function proposeLines(catalog: Catalog, table: CatalogTable, accounts: string): LedgerMap['lines'] | undefined {
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
  catalog: Catalog,
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
export function unitOf(catalog: Catalog, lines: string, name: string | undefined): UnitTable | undefined {
  const key = catalog.foreignKeys.find(each => each.from.table === lines && each.from.columns.length === 1 && each.from.columns[0] === name)
  const table = key && findTable(catalog, key.to.table)
  if (!key || !table) return undefined
  const own = key.to.columns[0]!
  return { table: table.name, key: own, code: column(table, /^(code|number)$/, 'text') ?? own, name: column(table, /name/, 'text') ?? own }
}

/** Columns of a table of budgets; none where it lacks account, amount, year or period. */
export function proposeBudgets(
  catalog: Catalog,
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
export function proposeLedger(catalog: Catalog): LedgerTables | undefined {
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

const units = (catalog: Catalog, lines: LedgerMap['lines']): Pick<LedgerMap, 'branches' | 'departments'> => {
  const [branches, departments] = [unitOf(catalog, lines.table, lines.branch), unitOf(catalog, lines.table, lines.department)]
  return { ...(branches ? { branches } : {}), ...(departments ? { departments } : {}) }
}
function budgetsOf(catalog: Catalog, accounts: string, branches: string | undefined): Pick<LedgerMap, 'budgets'> {
  for (const table of catalog.tables) {
    const budgets =
      /budget/i.test(table.name) && single(catalog, table.name, accounts) ? proposeBudgets(catalog, table, accounts, branches) : undefined
    if (budgets) return { budgets }
  }
  return {}
}

/** One account as its table has it. */
export interface ChartRow {
  code: string
  name: string
  type: string | null
  class: string | null
}

/**
 * What only the rows of the accounts tell: the meaning of the words for types, where results are kept, the classes in order, and the bank
 * and cash accounts. What was said before stays.
 */
export function ledgerWords(
  rows: readonly ChartRow[],
  said: Partial<Pick<LedgerMap, 'types' | 'retainedEarnings' | 'cash'>> = {},
): Pick<LedgerMap, 'types' | 'retainedEarnings' | 'classes' | 'cash'> | undefined {
  const types: LedgerMap['types'] = {}
  for (const word of new Set(rows.map(row => row.type))) {
    if (word === null) continue
    const nature = said.types?.[word] ?? Object.entries(typeWords).find(([, test]) => test.test(word))?.[0]
    if (nature) types[word] = nature as AccountNature
  }
  const natureOf = (row: ChartRow) => (row.type === null ? undefined : types[row.type])
  const equity = rows.filter(row => natureOf(row) === 'equity')
  const retained =
    said.retainedEarnings ?? (equity.find(row => /retained|accumulated|brought forward/i.test(row.name)) ?? equity.at(-1))?.code
  if (!Object.keys(types).length || retained === undefined) return undefined
  const classes = new Map<string, AccountNature | 'result'>()
  for (const row of rows) {
    const nature = natureOf(row)
    if (!row.class || !nature) continue
    const known = classes.get(row.class)
    classes.set(row.class, known && known !== nature ? 'result' : nature)
  }
  const cash = said.cash ?? rows.filter(row => natureOf(row) === 'asset' && /\b(bank|cash)\b/i.test(row.name)).map(row => row.code)
  return { types, retainedEarnings: retained, classes: [...classes].map(([name, nature]) => ({ name, nature })), cash }
}

/** Do the tables and columns that a map names exist? The first that does not, in words. */
export function ledgerLack(map: LedgerTables, catalog: Catalog): string | undefined {
  const { accounts, lines, journals, budgets, branches, departments } = map
  const head = journals?.table ?? lines.table
  const wanted: [string, (string | undefined)[]][] = [
    [accounts.table, [accounts.code, accounts.name, accounts.type, accounts.class, accounts.side, accounts.parent]],
    [
      lines.table,
      [
        lines.account,
        lines.debit,
        lines.credit,
        lines.amount,
        lines.branch,
        lines.department,
        ...(journals?.on.map(pair => pair.from) ?? []),
      ],
    ],
    [head, [map.date, map.period?.year, map.period?.number, map.closing, ...(journals?.on.map(pair => pair.to) ?? [])]],
    ...(budgets
      ? [
          [
            budgets.table,
            [budgets.account, budgets.amount, budgets.version, budgets.branch, budgets.period.year, budgets.period.number],
          ] as [string, (string | undefined)[]],
        ]
      : []),
    ...[branches, departments].flatMap((unit): [string, (string | undefined)[]][] =>
      unit ? [[unit.table, [unit.key, unit.code, unit.name]]] : [],
    ),
  ]
  for (const [name, columns] of wanted) {
    const table = findTable(catalog, name)
    if (!table) return `the table “${name}”`
    const gone = columns.find(each => each !== undefined && !table.columns.some(own => own.name === each))
    if (gone !== undefined) return `the column “${gone}” of “${name}”`
  }
  return undefined
}
