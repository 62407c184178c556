import { add, type Decimal, isZero, negate, zero } from '../value/decimal'
import type { StatementLine } from '../definition/blocks/statement'
import type { Account } from './accounts'
import type { FiscalCalendar } from '../books/calendar'
import { holdsFigures, type StandingColumn } from './columns'
import type { LedgerFigures } from './figures'
import type { ReadyLine } from './rounding'

/** Which accounts stand behind a figure of a statement, over which periods, and what each adds to it. */
export interface TracedFigure {
  accounts: { account: Account; amount: Decimal }[]
  /** the figure itself: what the accounts add up to */
  sum: Decimal
  /** columns of the books that it is taken from */
  columns: StandingColumn[]
  /** the postings behind it: those of each set, closing journals left out. Nothing of budgets */
  sets: PostingSet[]
}

/**
 * Postings on some accounts in some periods, each of which counts once for each set that it is in; of the lists of branches and
 * departments each one has to hold.
 */
export interface PostingSet {
  /** does debit − credit count for the figure as it is, or turned? */
  by: 1 | -1
  accounts: string[]
  periods: string[]
  branches: (readonly string[])[]
  departments: (readonly string[])[]
}

/** The columns of the books behind a column: itself, or those that it adds up; of a difference, the first one. */
export function columnsBehind(column: StandingColumn, columns: readonly StandingColumn[]): StandingColumn[] {
  if (holdsFigures(column.column)) return [column]
  const wanted =
    column.column.kind === 'total' || column.column.kind === 'average' ? (column.column.of ?? []) : (column.column.of ?? []).slice(0, 1)
  return columns.filter(each => wanted.includes(each.column.id)).flatMap(each => columnsBehind(each, columns))
}

/** Account lines that a line comes from, each added or taken off. */
function partsOf(
  id: string,
  lines: readonly ReadyLine[],
  by: 1 | -1,
  sumOf: (id: string) => readonly string[],
  seen: ReadonlySet<string> = new Set(),
): { line: ReadyLine; by: 1 | -1 }[] {
  const ready = lines.find(each => each.line.id === id)
  if (!ready || seen.has(id)) return []
  const inside = new Set([...seen, id])
  if (ready.line.kind === 'accounts') return [{ line: ready, by }]
  if (ready.line.kind === 'sum') return sumOf(id).flatMap(each => partsOf(each, lines, by, sumOf, inside))
  return (ready.addends ?? (ready.needs ?? []).map(line => ({ line, by: 1 as const }))).flatMap(each =>
    partsOf(each.line, lines, each.by === 1 ? by : by === 1 ? -1 : 1, sumOf, inside),
  )
}

/**
 * The postings that a column takes from some accounts (rule 27: of a balance, income and expense count in its year only, and those of the
 * years before stand in retained earnings).
 */
function postings(
  column: StandingColumn,
  accounts: readonly Account[],
  books: LedgerFigures,
  line: StatementLine,
  calendar: FiscalCalendar,
  by: 1 | -1,
): PostingSet[] {
  const lists = (...own: (readonly string[] | undefined)[]) => own.flatMap(list => (list?.length ? [list] : []))
  const units = {
    branches: lists(line.branches, column.column.branches, column.branch === undefined ? undefined : [column.branch]),
    departments: lists(line.departments, column.column.departments, column.department === undefined ? undefined : [column.department]),
  }
  const setOf = (codes: readonly string[], periods: readonly string[]): PostingSet[] =>
    codes.length && periods.length ? [{ by, accounts: [...codes], periods: [...periods], ...units }] : []
  const set = (chosen: readonly Account[], periods: readonly string[]) =>
    setOf(
      chosen.map(account => account.code),
      periods,
    )
  const { kind } = column.column
  if (kind === 'budget' || !column.periods.length) return []
  if (kind !== 'balance' && kind !== 'opening') return set(accounts, column.periods)
  const last = kind === 'balance' ? column.periods.at(-1)! : column.periods[0]!
  const reached = calendar.periods.map(period => period.code).filter(code => (kind === 'balance' ? code <= last : code < last))
  const year = (code: string) => code.slice(0, code.lastIndexOf('-'))
  const result = (account: Account) => account.nature === 'income' || account.nature === 'expense'
  return [
    ...set(
      accounts.filter(account => !result(account)),
      reached,
    ),
    ...set(
      accounts.filter(result),
      reached.filter(code => year(code) === year(last)),
    ),
    ...(accounts.some(account => account.code === books.retainedEarnings)
      ? setOf(
          books.resultCodes,
          reached.filter(code => year(code) !== year(last)),
        )
      : []),
  ]
}

/** Follows a figure of a statement back to its accounts; `account` narrows to one of them, with those that stand under it. */
export function traceFigure(
  wanted: { line: string; column: string; account?: string | undefined },
  lines: readonly ReadyLine[],
  columns: readonly StandingColumn[],
  books: LedgerFigures,
  calendar: FiscalCalendar,
  turned: (line: string) => boolean,
  sumOf: (id: string) => readonly string[],
): TracedFigure | undefined {
  const column = columns.find(each => each.id === wanted.column)
  if (!column) return undefined
  const own = columnsBehind(column, columns)
  const amounts = new Map<number, Decimal>()
  const sets: PostingSet[] = []
  for (const { line, by } of partsOf(wanted.line, lines, 1, sumOf)) {
    const taken = books.accounts.filter(
      account =>
        line.takes!(account) &&
        (wanted.account === undefined || account.code === wanted.account || account.under?.includes(wanted.account)),
    )
    for (const each of own) {
      const plain = each.column.kind === 'debit' || each.column.kind === 'credit'
      const isTurned = !plain && turned(line.line.id)
      sets.push(...postings(each, taken, books, line.line, calendar, isTurned === (by === 1) ? -1 : 1))
      const figures = books.of({ column: each, branches: line.line.branches, departments: line.line.departments })
      books.accounts.forEach((account, place) => {
        if (!taken.includes(account)) return
        const signed = isTurned ? negate(figures[place]!) : figures[place]!
        amounts.set(place, add(amounts.get(place) ?? zero, by === 1 ? signed : negate(signed)))
      })
    }
  }
  const accounts = [...amounts]
    .filter(([, amount]) => !isZero(amount))
    .map(([place, amount]) => ({ account: books.accounts[place]!, amount }))
    .sort((a, b) => (a.account.code < b.account.code ? -1 : 1))
  return { accounts, sum: accounts.reduce<Decimal>((sum, each) => add(sum, each.amount), zero), columns: own, sets }
}
