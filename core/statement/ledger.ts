import { type Catalog, type CatalogTable, findTable } from '../catalog/types'
import type { JoinPair } from '../definition/types'

export type AccountNature = 'asset' | 'liability' | 'equity' | 'income' | 'expense'

/** Is more of it a debit? Contra accounts follow their type, not their own side. */
export const debitNatured = (nature: AccountNature | undefined) => nature === 'asset' || nature === 'expense'

/** A period by the columns that name it, as the table of periods does. */
export interface PeriodColumns { year: string, number: string }
/** Branches or departments: what a line points at, and how it is called. */
export interface UnitTable { table: string, key: string, code: string, name: string }

/** Where a source keeps its books; said once per source. Columns are those of the table named beside them. */
export interface LedgerMap {
  accounts: { table: string, code: string, name: string, type: string, class?: string, /** the side on which an account grows: “credit”, “C” … */ side?: string }
  /** either debit and credit, or one amount (debit positive) */
  lines: { table: string, account: string, debit?: string, credit?: string, amount?: string, branch?: string, department?: string }
  /** where lines find their date and period; they have them themselves where there is none */
  journals?: { table: string, on: JoinPair[] }
  date: string
  /** absent: the period is that of the date */
  period?: PeriodColumns
  /** yes for journals that close a year */
  closing?: string
  /** what the source's words for types of accounts mean */
  types: Record<string, AccountNature>
  /** classes of accounts in the order of their codes, with what they hold; a class of income and expense is both */
  classes?: { name: string, nature: AccountNature | 'result' }[]
  /** codes of bank and cash accounts */
  cash?: string[]
  /** code of the account that a year's result is closed into */
  retainedEarnings: string
  branches?: UnitTable
  departments?: UnitTable
  budgets?: { table: string, account: string, amount: string, version?: string, branch?: string, period: PeriodColumns, /** which sign a budget of income has: as its account, or as debits and credits */ sign: 'natural' | 'debit' }
}

/** Words for types of accounts, as they stand in ledgers. */
export const typeWords: Record<AccountNature, RegExp> = {
  asset: /^(assets?|a)$/i, liability: /^(liabilit(y|ies)|l)$/i, equity: /^(equity|capital|e|q)$/i, income: /^(income|revenues?|sales|i|r)$/i, expense: /^(expenses?|costs?|x)$/i,
}

/** The books of a source, as far as tables, keys and names tell: words of the types and the account of retained earnings are to be found in the rows (server/sources). */
export function proposeLedger(catalog: Catalog): Omit<LedgerMap, 'types' | 'retainedEarnings'> | undefined {
  const column = (table: CatalogTable, test: RegExp, type?: string) => table.columns.find(each => test.test(each.name) && (!type || each.type === type))?.name
  const single = (from: string, to: string) => catalog.foreignKeys.find(key => key.from.table === from && key.to.table === to && key.from.columns.length === 1)
  for (const accounts of catalog.tables) {
    const [code, name, type] = [column(accounts, /^(code|number|account(_(code|number|no))?)$/, 'text'), column(accounts, /name|description|title/, 'text'), column(accounts, /type|kind|nature/, 'text')]
    if (!/account/i.test(accounts.name) || !code || !name || !type) continue
    for (const lines of catalog.tables) {
      const account = single(lines.name, accounts.name)?.from.columns[0]
      const [debit, credit, amount] = [column(lines, /debit/, 'number'), column(lines, /credit/, 'number'), column(lines, /^amount$|base_amount/, 'number')]
      if (!account || !((debit && credit) || (amount && /ledger|journal|entr|posting/i.test(lines.name)))) continue
      const above = catalog.foreignKeys.find(key => key.from.table === lines.name && /journal|entr|voucher|transaction/i.test(key.to.table))
      const head = above ? findTable(catalog, above.to.table)! : lines
      const date = column(head, /posting_date|date|posted/, 'date')
      if (!date) continue
      const [year, number] = [column(head, /year/, 'number'), column(head, /period/, 'number')]
      const unit = (test: RegExp): [string, UnitTable] | undefined => {
        const key = catalog.foreignKeys.find(each => each.from.table === lines.name && each.from.columns.length === 1 && test.test(each.to.table))
        const table = key && findTable(catalog, key.to.table)
        if (!key || !table) return undefined
        const keyName = key.to.columns[0]!
        return [key.from.columns[0]!, { table: table.name, key: keyName, code: column(table, /^(code|number)$/, 'text') ?? keyName, name: column(table, /name/, 'text') ?? keyName }]
      }
      const [branch, department] = [unit(/branch|company|site|store/i), unit(/depart|cost_cent/i)]
      const budget = catalog.tables.find(each => /budget/i.test(each.name) && single(each.name, accounts.name) && column(each, /amount|value/, 'number') && column(each, /year/, 'number') && column(each, /period/, 'number'))
      const [className, side] = [column(accounts, /class|group|categor/, 'text'), column(accounts, /side|normal|natural/, 'text')]
      const closing = column(head, /clos/, 'boolean')
      const version = budget && column(budget, /version|scenario/, 'text')
      const budgetBranch = budget && branch && catalog.foreignKeys.find(key => key.from.table === budget.name && key.to.table === branch[1].table && key.from.columns.length === 1)?.from.columns[0]
      return {
        accounts: { table: accounts.name, code, name, type, ...(className ? { class: className } : {}), ...(side ? { side } : {}) },
        lines: { table: lines.name, account, ...(debit && credit ? { debit, credit } : { amount: amount! }), ...(branch ? { branch: branch[0] } : {}), ...(department ? { department: department[0] } : {}) },
        ...(above ? { journals: { table: head.name, on: above.from.columns.map((from, index) => ({ from, to: above.to.columns[index]! })) } } : {}),
        date, ...(year && number ? { period: { year, number } } : {}), ...(closing ? { closing } : {}), ...(branch ? { branches: branch[1] } : {}), ...(department ? { departments: department[1] } : {}),
        ...(budget ? { budgets: { table: budget.name, account: single(budget.name, accounts.name)!.from.columns[0]!, amount: column(budget, /amount|value/, 'number')!, ...(version ? { version } : {}), ...(budgetBranch ? { branch: budgetBranch } : {}), period: { year: column(budget, /year/, 'number')!, number: column(budget, /period/, 'number')! }, sign: 'natural' as const } } : {}),
      }
    }
  }
  return undefined
}
