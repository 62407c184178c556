import type { LevelRecords, Value } from '../dataset/records'
import { valueAt } from '../dataset/records'
import { add, type Decimal, subtract, zero } from '../value/decimal'
import type { Account } from './accounts'
import type { StandingColumn } from './columns'
import type { AccountNature } from './ledger'

/** One row of the books: what an account has in a period. */
interface Entry { account: number, period: string, version: string, branch: string, department: string, debit: Decimal, credit: Decimal }

/** What is asked of the books: a column, and which branches and departments count beside the column's own. */
export interface Asked { column: StandingColumn, branches?: readonly string[] | undefined, departments?: readonly string[] | undefined }

export interface LedgerWords { types: Readonly<Record<string, AccountNature>>, retainedEarnings: string }

const yearOf = (code: string) => code.slice(0, code.lastIndexOf('-'))

/** The books as they were read, ready to be asked for figures. Amounts are debit − credit (rule 27 of the semantics). */
export class LedgerFigures {
  readonly accounts: Account[] = []
  /** codes of branches and departments that occur, in order */
  readonly branches: string[]
  readonly departments: string[]
  private readonly entries = new Map<string, Entry[]>()
  private readonly known = new Map<string, Decimal[]>()
  private readonly periods: string[]
  private readonly versions: string[]
  private readonly retained: number

  /** `records` are those of a ledger table; see LedgerTable. */
  constructor(records: LevelRecords, words: LedgerWords) {
    const text = (name: string) => {
      const column = records.columns[name]
      return column ? (row: number) => (valueAt(column, row) ?? '') as string : () => ''
    }
    const amount = (name: string) => {
      const column = records.columns[name]
      return column ? (row: number) => (valueAt(column, row) as Value as Decimal | null) ?? zero : () => zero
    }
    const [code, name, type, group, period, version, branch, department] = ['account', 'account_name', 'account_type', 'account_class', 'period', 'version', 'branch', 'department'].map(text) as ((row: number) => string)[]
    const [debit, credit] = [amount('debit'), amount('credit')]
    const places = new Map<string, number>()
    const [branches, departments, versions] = [new Set<string>(), new Set<string>(), new Set<string>()]
    const held = records.columns.debit
    for (let row = 0; row < records.count; row++) {
      const own = code!(row)
      let place = places.get(own)
      if (place === undefined) {
        places.set(own, place = this.accounts.length)
        this.accounts.push({ code: own, name: name!(row), nature: words.types[type!(row)], class: group!(row) })
      }
      // an account without figures has a row that says so
      if (held && valueAt(held, row) === null) continue
      const entry: Entry = { account: place, period: period!(row), version: version!(row), branch: branch!(row), department: department!(row), debit: debit(row), credit: credit(row) }
      branches.add(entry.branch)
      departments.add(entry.department)
      versions.add(entry.version)
      const list = this.entries.get(`${entry.version}\u0000${entry.period}`)
      if (list) list.push(entry)
      else this.entries.set(`${entry.version}\u0000${entry.period}`, [entry])
    }
    const sorted = (set: Set<string>) => [...set].filter(Boolean).sort()
    this.branches = sorted(branches)
    this.departments = sorted(departments)
    this.versions = sorted(versions)
    this.periods = [...new Set([...this.entries.keys()].map(key => key.slice(key.indexOf('\u0000') + 1)))].sort()
    this.retained = places.get(words.retainedEarnings) ?? -1
  }

  /** Debit − credit of every account, in the order of `accounts`: activity, balance, opening, debits, credits or budget, as the column says. */
  of(asked: Asked): readonly Decimal[] {
    const { column, branches, departments } = asked
    const key = JSON.stringify([column.column.kind, column.periods, column.column.version, column.branch, column.column.branches, branches, column.department, column.column.departments, departments])
    let found = this.known.get(key)
    if (!found) this.known.set(key, found = this.workOut(asked))
    return found
  }

  private workOut({ column, branches, departments }: Asked): Decimal[] {
    const sums = this.accounts.map((): Decimal => zero)
    const { kind, branches: ownBranches, departments: ownDepartments } = column.column
    if (!column.periods.length) return sums
    const allowed = (code: string, ...lists: (readonly string[] | undefined)[]) => lists.every(list => !list?.length || list.includes(code))
    const counts = (entry: Entry) => allowed(entry.branch, branches, ownBranches, column.branch === undefined ? undefined : [column.branch]) && allowed(entry.department, departments, ownDepartments, column.department === undefined ? undefined : [column.department])
    const put = (place: number, amount: Decimal) => sums[place] = add(sums[place]!, amount)
    const each = (version: string, period: string, work: (entry: Entry) => void) => {
      for (const entry of this.entries.get(`${version}\u0000${period}`) ?? []) if (counts(entry)) work(entry)
    }
    if (kind === 'balance' || kind === 'opening') {
      // an opening balance is that of the end of the period before
      const last = kind === 'balance' ? column.periods.at(-1)! : column.periods[0]!
      const reached = (period: string) => kind === 'balance' ? period <= last : period < last
      const year = yearOf(last)
      for (const period of this.periods) {
        if (!reached(period)) continue
        const thisYear = yearOf(period) === year
        each('', period, (entry) => {
          const amount = subtract(entry.debit, entry.credit)
          const { nature } = this.accounts[entry.account]!
          // a year's income and expense start at zero; those of years before have gone into retained earnings, closed or not (rule 27)
          if ((nature === 'income' || nature === 'expense') && !thisYear) {
            if (this.retained >= 0) put(this.retained, amount)
          } else put(entry.account, amount)
        })
      }
      return sums
    }
    const version = kind === 'budget' ? column.column.version ?? this.versions[0] ?? '\u0000' : ''
    for (const period of column.periods) {
      each(version, period, (entry) => {
        put(entry.account, kind === 'debit' ? entry.debit : kind === 'credit' ? entry.credit : subtract(entry.debit, entry.credit))
      })
    }
    return sums
  }
}
