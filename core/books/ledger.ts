import { findTable, type JoinPair, type TableCatalog } from '../catalog/types'
import type { ValueType } from '../value/value'

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

/** The map without what only the rows can tell: see ledgerWords. */
export type LedgerTables = Omit<LedgerMap, 'types' | 'retainedEarnings' | 'classes' | 'cash'>

/** Do the tables and columns that a map names exist? The first that does not, in words. */
export function ledgerLack(map: LedgerTables, catalog: TableCatalog): string | undefined {
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
  const kinds: [string, string | undefined, ValueType][] = [
    ...[lines.debit, lines.credit, lines.amount].map((column): [string, string | undefined, ValueType] => [lines.table, column, 'number']),
    [head, map.date, 'date'],
    [head, map.closing, 'boolean'],
    [head, map.period?.number, 'number'],
    ...(budgets ? [[budgets.table, budgets.amount, 'number'] as [string, string, ValueType]] : []),
  ]
  for (const [name, column, type] of kinds) {
    const found = column === undefined ? undefined : findTable(catalog, name)?.columns.find(own => own.name === column)
    if (found && found.type !== type) return `${kindWords[type]} in the column “${column}” of “${name}”`
  }
  return undefined
}

const kindWords: Record<ValueType, string> = {
  number: 'numbers',
  date: 'dates',
  moment: 'dates with times',
  boolean: 'yes and no',
  text: 'texts',
}
