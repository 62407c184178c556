import type { LevelRecords } from '../value/records'
import { valueAt } from '../value/columns'
import type { Value } from '../value/value'
import { add, type Decimal, subtract, zero } from '../value/decimal'
import type { Account } from './accounts'
import type { StandingColumn } from './columns'
import type { AccountNature } from '../books/ledger'

/** One row of the books: what an account has in a period. */
interface Entry {
  account: number
  period: string
  version: string
  branch: string
  department: string
  debit: Decimal
  credit: Decimal
  /** what an account of results that may be left out itself puts into retained earnings, once its year is over */
  carried?: boolean
}

/** What is asked of the books: a column, and which branches and departments count beside the column's own. */
export interface Asked {
  column: StandingColumn
  branches?: readonly string[] | undefined
  departments?: readonly string[] | undefined
}

/** A branch or department by code and name. */
export interface Unit {
  code: string
  name: string
}
/** What the map of the books says that rows do not. */
export interface LedgerWords {
  types: Readonly<Record<string, AccountNature>>
  retainedEarnings: string
  branches?: { units?: Unit[] } | undefined
  departments?: { units?: Unit[] } | undefined
}

/** Answers that are kept. */
const mostKnown = 2000
const yearOf = (code: string) => code.slice(0, code.lastIndexOf('-'))

/** Books by the records that they were read from: an edit of a statement asks the same ones again. */
const read = new WeakMap<LevelRecords, { words: LedgerWords; books: Map<string, LedgerFigures> }>()

/** The books of some records (see LedgerTable), of which only some stretches count: from, and up to before. Records do not change. */
export function figuresOf(
  records: LevelRecords,
  words: LedgerWords,
  stretches: readonly (readonly [number, number])[] = [[0, records.count]],
): LedgerFigures {
  let known = read.get(records)
  if (known?.words !== words) read.set(records, (known = { words, books: new Map() }))
  const key = JSON.stringify(stretches)
  let found = known.books.get(key)
  if (!found) known.books.set(key, (found = new LedgerFigures(records, words, stretches)))
  return found
}

/** The accounts above one, the nearest first; a tree that bites its own tail ends there. */
function accountsAbove(code: string, parents: ReadonlyMap<string, string>): string[] {
  const found: string[] = []
  for (let above = parents.get(code); above !== undefined && above !== code && !found.includes(above); above = parents.get(above))
    found.push(above)
  return found
}

/** The books as they were read, ready to be asked for figures. Amounts are debit − credit (rule 27 of the semantics). */
export class LedgerFigures {
  readonly accounts: Account[] = []
  /** branches and departments that occur, in the order of their table */
  readonly branches: Unit[]
  readonly departments: Unit[]
  private readonly entries = new Map<string, Entry[]>()
  private readonly known = new Map<string, Decimal[]>()
  private readonly periods: string[]
  private readonly versions: string[]
  /** code of the account that results are put to */
  readonly retainedEarnings: string
  private readonly retained: number
  /** results of years before stand in rows of their own */
  private readonly carries: boolean
  private readonly resultAccounts = new Set<string>()

  /** `records` are those of a ledger table (see LedgerTable), of which only some stretches count: from, and up to before. */
  constructor(records: LevelRecords, words: LedgerWords, stretches: readonly (readonly [number, number])[] = [[0, records.count]]) {
    const text = (name: string) => {
      const column = records.columns[name]
      return column ? (row: number) => (valueAt(column, row) ?? '') as string : () => ''
    }
    const amount = (name: string) => {
      const column = records.columns[name]
      return column ? (row: number) => (valueAt(column, row) as Value as Decimal | null) ?? zero : () => zero
    }
    const [code, name, type, group, parent, period, version, branch, department] = [
      'account',
      'account_name',
      'account_type',
      'account_class',
      'account_parent',
      'period',
      'version',
      'branch',
      'department',
    ].map(text) as ((row: number) => string)[]
    const [debit, credit, results, resultOf] = [amount('debit'), amount('credit'), amount('results'), text('result_of')]
    this.carries = !!records.columns.results
    const places = new Map<string, number>()
    const [branches, departments, versions] = [new Set<string>(), new Set<string>(), new Set<string>()]
    const parents = new Map<string, string>()
    const held = records.columns.debit
    for (const [from, to] of stretches)
      for (let row = from; row < to; row++) {
        const own = code!(row)
        let place = places.get(own)
        if (place === undefined) {
          places.set(own, (place = this.accounts.length))
          this.accounts.push({ code: own, name: name!(row), nature: words.types[type!(row)], class: group!(row) })
          if (parent!(row)) parents.set(own, parent!(row))
        }
        const left = resultOf(row)
        if (left) this.resultAccounts.add(left)
        // an account, a branch or a department without figures has a row that says so
        if (!left && held && valueAt(held, row) === null) {
          branches.add(branch!(row))
          departments.add(department!(row))
          continue
        }
        const entry: Entry = {
          account: place,
          period: period!(row),
          version: version!(row),
          branch: branch!(row),
          department: department!(row),
          debit: left ? results(row) : debit(row),
          credit: left ? zero : credit(row),
          ...(left ? { carried: true } : {}),
        }
        branches.add(entry.branch)
        departments.add(entry.department)
        versions.add(entry.version)
        const list = this.entries.get(`${entry.version}\u0000${entry.period}`)
        if (list) list.push(entry)
        else this.entries.set(`${entry.version}\u0000${entry.period}`, [entry])
      }
    if (parents.size) for (const account of this.accounts) account.under = accountsAbove(account.code, parents)
    const sorted = (codes: Set<string>) => [...codes].filter(Boolean).sort()
    const inOrder = (codes: Set<string>, known: readonly Unit[] = []): Unit[] => [
      ...known.filter(each => codes.has(each.code)),
      ...sorted(codes)
        .filter(own => !known.some(each => each.code === own))
        .map(own => ({ code: own, name: own })),
    ]
    this.branches = inOrder(branches, words.branches?.units)
    this.departments = inOrder(departments, words.departments?.units)
    this.versions = sorted(versions)
    this.periods = [...new Set([...this.entries.keys()].map(key => key.slice(key.indexOf('\u0000') + 1)))].sort()
    this.retainedEarnings = words.retainedEarnings
    this.retained = places.get(words.retainedEarnings) ?? -1
  }

  /** Codes of the accounts whose results of years before stand in retained earnings. */
  get resultCodes(): string[] {
    if (this.carries) return [...this.resultAccounts]
    return this.accounts.filter(each => each.nature === 'income' || each.nature === 'expense').map(each => each.code)
  }

  /**
   * Debit − credit of every account, in the order of `accounts`: activity, balance, opening, debits, credits or budget, as the column
   * says.
   */
  of(asked: Asked): readonly Decimal[] {
    const { column, branches, departments } = asked
    const key = JSON.stringify([
      column.column.kind,
      column.periods,
      column.column.version,
      column.branch,
      column.column.branches,
      branches,
      column.department,
      column.column.departments,
      departments,
    ])
    let found = this.known.get(key)
    if (found) return found
    if (this.known.size > mostKnown) this.known.clear()
    this.known.set(key, (found = this.workOut(asked)))
    return found
  }

  private workOut({ column, branches, departments }: Asked): Decimal[] {
    const sums = this.accounts.map((): Decimal => zero)
    const { kind, branches: ownBranches, departments: ownDepartments } = column.column
    if (!column.periods.length) return sums
    const allowed = (code: string, ...lists: (readonly string[] | undefined)[]) => lists.every(list => !list?.length || list.includes(code))
    const counts = (entry: Entry) =>
      allowed(entry.branch, branches, ownBranches, column.branch === undefined ? undefined : [column.branch]) &&
      allowed(entry.department, departments, ownDepartments, column.department === undefined ? undefined : [column.department])
    const put = (place: number, amount: Decimal) => (sums[place] = add(sums[place]!, amount))
    const each = (version: string, period: string, work: (entry: Entry) => void) => {
      for (const entry of this.entries.get(`${version}\u0000${period}`) ?? []) if (counts(entry)) work(entry)
    }
    if (kind === 'balance' || kind === 'opening') {
      // an opening balance is that of the end of the period before
      const last = kind === 'balance' ? column.periods.at(-1)! : column.periods[0]!
      const reached = (period: string) => (kind === 'balance' ? period <= last : period < last)
      const year = yearOf(last)
      for (const period of this.periods) {
        if (!reached(period)) continue
        const thisYear = yearOf(period) === year
        each('', period, entry => {
          const amount = subtract(entry.debit, entry.credit)
          const { nature } = this.accounts[entry.account]!
          // a year's income and expense start at zero; those of years before have gone into retained earnings, closed or not (rule 27)
          if (entry.carried) {
            if (!thisYear) put(entry.account, amount)
          } else if ((nature === 'income' || nature === 'expense') && !thisYear) {
            if (this.retained >= 0 && !this.carries) put(this.retained, amount)
          } else put(entry.account, amount)
        })
      }
      return sums
    }
    const version = kind === 'budget' ? (column.column.version ?? this.versions[0] ?? '\u0000') : ''
    for (const period of column.periods) {
      each(version, period, entry => {
        if (entry.carried) return
        put(entry.account, kind === 'debit' ? entry.debit : kind === 'credit' ? entry.credit : subtract(entry.debit, entry.credit))
      })
    }
    return sums
  }
}
