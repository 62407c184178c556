import type { StatementBlock, StatementLine } from '../definition/blocks/statement'
import { absolute, add, type Decimal, decimal, divide, isZero, negate, subtract, zero } from '../value/decimal'
import type { Account } from './accounts'
import { holdsFigures, type StandingColumn } from './columns'
import type { LedgerFigures } from './figures'
import { debitNatured } from '../books/ledger'
import { isPercent, type ReadyLine, Rounding } from './rounding'

/**
 * One row of a statement as it stands on the page. Figures are in the statement's scale and rounded; `exact` are the amounts behind them.
 */
export interface StatementRow {
  line: StatementLine
  /** it shows one account of the line */
  account?: Account
  /** the accounts' own heading, before they stand one by one; an account of a tree opens and ends like that too */
  part: 'line' | 'opens' | 'account' | 'heading' | 'ends'
  /** accounts of the tree that it stands under, outermost first */
  above?: readonly string[]
  figures: (Decimal | null)[]
  exact: (Decimal | null)[]
  /** more of it is worse: an expense */
  worseWhenMore: boolean
}

export interface ShapedStatement {
  rows: StatementRow[]
  /** is a line's amount credit − debit? */
  turned: (line: string) => boolean
  /** the account lines that a sum adds up */
  addedBy: (line: string) => readonly string[]
  /**
   * accounts of the statement's kinds with figures that stand in no line, or in several, and what they come to in the first column that
   * holds figures
   */
  missing: { account: Account; amount: Decimal }[]
  twice: { account: Account; lines: string[] }[]
}

type Sums = Pick<StatementRow, 'figures' | 'exact'>
/** Works out percentages from the sums of some accounts of a line. */
type Again = (sums: Sums, line: StatementLine) => Sums

/** Works out all figures of a statement. Lines without figures (headings, blanks, rules) have none. */
export function shapeStatement(
  block: StatementBlock,
  lines: readonly ReadyLine[],
  columns: readonly StandingColumn[],
  books: LedgerFigures,
): ShapedStatement {
  const measured = columns.map(column => holdsFigures(column.column))
  const chosen = lines.map(({ takes }) => (takes ? books.accounts.flatMap((account, place) => (takes(account) ? [place] : [])) : []))
  const debit = natureOf(lines, chosen, books)
  const exact = new Map<string, (Decimal | null)[]>()
  const ofAccounts = new Map<string, Map<number, (Decimal | null)[]>>()

  const isTurned = (line: StatementLine) => line.sign === 'credit' || (line.sign !== 'debit' && !debit.get(line.id))
  // account lines first, column by column
  lines.forEach((ready, index) => {
    const { line } = ready
    if (line.kind !== 'accounts') return
    const turned = isTurned(line)
    const sign = (amount: Decimal) => (turned ? negate(amount) : amount)
    // accounts have figures of their own where they are shown
    const perAccount = new Map(line.expand ? chosen[index]!.map(place => [place, columns.map((): Decimal | null => null)]) : [])
    const sums = columns.map((column, at): Decimal | null => {
      if (!measured[at]) return null
      const figures = books.of({ column, branches: line.branches, departments: line.departments })
      // debits and credits are what they are
      const plain = column.column.kind === 'debit' || column.column.kind === 'credit'
      let sum = zero
      for (const place of chosen[index]!) {
        const amount = plain ? figures[place]! : sign(figures[place]!)
        if (line.expand) perAccount.get(place)![at] = amount
        if (!isZero(amount)) sum = add(sum, amount)
      }
      return sum
    })
    exact.set(line.id, sums)
    if (line.expand) ofAccounts.set(line.id, perAccount)
  })
  const sumsOf = new Map(
    lines.flatMap(({ line }, index): [string, string[]][] => (line.kind === 'sum' ? [[line.id, addedUp(lines, index)]] : [])),
  )
  for (const [id, list] of sumsOf)
    exact.set(
      id,
      columns.map((_, at) => (measured[at] ? list.reduce<Decimal>((sum, each) => add(sum, exact.get(each)?.[at] ?? zero), zero) : null)),
    )

  // what columns work out from other columns comes before formulas, so that a ratio is worked out again from totals (rule 11)
  const places = (ids: readonly string[] | undefined) => columns.flatMap((each, at) => (ids?.includes(each.column.id) ? [at] : []))
  const collected = (values: (Decimal | null)[]) =>
    columns.forEach(({ column }, at) => {
      if (column.kind !== 'total' && column.kind !== 'average') return
      const from = places(column.of)
      const sum = from.reduce<Decimal>((total, place) => add(total, values[place] ?? zero), zero)
      values[at] = column.kind === 'total' || !from.length ? sum : divide(sum, decimal(from.length, 0))!
    })
  for (const values of exact.values()) collected(values)
  for (const map of ofAccounts.values()) for (const values of map.values()) collected(values)
  formulas(lines, columns, exact)
  const compared = (values: (Decimal | null)[], worse: boolean, ratio: boolean) =>
    columns.forEach(({ column }, at) => {
      const [one, against] = [places(column.of?.slice(0, 1))[0], places(column.of?.slice(1, 2))[0]]
      if (column.kind === 'difference' || column.kind === 'percent') {
        const [a, b] = [one === undefined ? null : (values[one] ?? null), against === undefined ? null : (values[against] ?? null)]
        if (a === null || b === null || (ratio && column.kind === 'percent')) return
        const difference = column.favourable && worse ? subtract(b, a) : subtract(a, b)
        values[at] = column.kind === 'difference' ? difference : isZero(b) ? null : (divide(difference, absolute(b)) ?? null)
      } else if (column.kind === 'share') {
        const whole = column.line === undefined || one === undefined ? null : (exact.get(column.line)?.[one] ?? null)
        const own = one === undefined ? null : (values[one] ?? null)
        values[at] = ratio || own === null || whole === null || isZero(whole) ? null : (divide(own, whole) ?? null)
      }
    })
  for (const { line } of lines) {
    const worse = !!debit.get(line.id)
    const values = exact.get(line.id)
    if (values) compared(values, worse, !!line.format)
    ofAccounts.get(line.id)?.forEach(each => compared(each, worse, false))
  }
  // percentages of what several accounts come to are no sums
  const again: Again = (sums, line) => {
    const values = [...sums.exact]
    compared(values, !!debit.get(line.id), false)
    return { exact: values, figures: sums.figures.map((figure, at) => (isPercent(columns[at]!) ? values[at]! : figure)) }
  }
  const rounded = new Rounding(block, lines, columns, exact, ofAccounts, sumsOf, id => !!debit.get(id))
  return {
    turned: id => lines.some(each => each.line.id === id && isTurned(each.line)),
    addedBy: id => sumsOf.get(id) ?? [],
    rows: rowsOf(block, lines, chosen, books, exact, ofAccounts, rounded, debit, again),
    ...accountFaults(lines, chosen, columns, books),
  }
}

/** The account lines that a sum adds up: from one line to another, or those since the sum before it. */
function addedUp(lines: readonly ReadyLine[], index: number): string[] {
  const { line } = lines[index]!
  const place = (id: string | undefined) => (id === undefined ? -1 : lines.findIndex(each => each.line.id === id))
  const to = line.to === undefined ? index - 1 : place(line.to)
  const from = line.from === undefined ? lines.slice(0, index).findLastIndex(each => each.line.kind === 'sum') + 1 : place(line.from)
  return from < 0
    ? []
    : lines
        .slice(from, to + 1)
        .filter(each => each.line.kind === 'accounts')
        .map(each => each.line.id)
}

/** Which lines are debits by nature: those of assets and expenses, and what adds up only such lines. */
function natureOf(lines: readonly ReadyLine[], chosen: readonly number[][], books: LedgerFigures): Map<string, boolean> {
  const found = new Map<string, boolean>()
  lines.forEach(({ line }, index) => {
    if (line.kind === 'accounts')
      found.set(line.id, chosen[index]!.length > 0 && chosen[index]!.every(place => debitNatured(books.accounts[place]!.nature)))
  })
  lines.forEach(({ line, needs }, index) => {
    const parts = line.kind === 'sum' ? addedUp(lines, index) : line.kind === 'formula' ? (needs ?? []) : []
    if (parts.length)
      found.set(
        line.id,
        parts.every(id => found.get(id)),
      )
  })
  return found
}

/** Formulas in the order in which they need one another; one that needs itself stays empty (its line says so). */
function formulas(lines: readonly ReadyLine[], columns: readonly StandingColumn[], exact: Map<string, (Decimal | null)[]>): void {
  let left = lines.filter(({ line, evaluate }) => line.kind === 'formula' && evaluate)
  while (left.length) {
    const ready = left.filter(({ needs }) => !needs!.some(id => left.some(other => other.line.id === id)))
    if (!ready.length) break
    for (const { line, evaluate } of ready) {
      exact.set(
        line.id,
        columns.map(({ column }, at) =>
          holdsFigures(column) || column.kind === 'total' || column.kind === 'average'
            ? evaluate!(id => exact.get(id)?.[at] ?? null)
            : null,
        ),
      )
    }
    left = left.filter(each => !ready.includes(each))
  }
}

function rowsOf(
  block: StatementBlock,
  lines: readonly ReadyLine[],
  chosen: readonly number[][],
  books: LedgerFigures,
  exact: ReadonlyMap<string, (Decimal | null)[]>,
  ofAccounts: ReadonlyMap<string, Map<number, (Decimal | null)[]>>,
  rounded: Rounding,
  debit: ReadonlyMap<string, boolean>,
  again: Again,
): StatementRow[] {
  const nothing = (values: readonly (Decimal | null)[] | undefined) => !values?.some(value => value !== null && !isZero(value))
  return lines.flatMap(({ line }, index): StatementRow[] => {
    const worseWhenMore = !!debit.get(line.id)
    const values = exact.get(line.id) ?? []
    const row: StatementRow = { line, part: 'line', figures: [...(rounded.of(line.id) ?? [])], exact: values, worseWhenMore }
    if (line.kind !== 'accounts' && line.kind !== 'formula' && line.kind !== 'sum') return [row]
    if (line.hideZero && nothing(values)) return []
    if (line.kind !== 'accounts' || !line.expand) return [row]
    const places = [...chosen[index]!].sort((a, b) => (books.accounts[a]!.code < books.accounts[b]!.code ? -1 : 1))
    const own = (place: number): StatementRow => ({
      line,
      part: 'account',
      account: books.accounts[place]!,
      figures: [...rounded.ofAccount(line.id, place)],
      exact: ofAccounts.get(line.id)!.get(place)!,
      worseWhenMore,
    })
    const shown = places.map(own).filter(each => block.zeroAccounts || !nothing(each.exact))
    const accounts = line.expand === 'tree' ? treeOf(shown, books, again) : shown
    return accounts.length ? [{ ...row, part: 'opens', figures: [], exact: [] }, ...accounts, row] : [row]
  })
}

/**
 * Accounts under those that they stand under, each of which opens, and ends with the sum of what stands between. Figures that are rounded
 * are added up as they are printed.
 */
function treeOf(rows: readonly StatementRow[], books: LedgerFigures, again: Again): StatementRow[] {
  const byCode = new Map(books.accounts.map(account => [account.code, account]))
  const below = new Map<string, StatementRow[]>()
  const children = new Map<string, Set<string>>()
  for (const row of rows) {
    // an account that others stand under shows what was posted on itself among them
    const path = [...(row.account!.under ?? [])].reverse().filter(code => byCode.has(code))
    const heads = rows.some(other => other.account!.under?.includes(row.account!.code)) ? [...path, row.account!.code] : path
    let above = ''
    for (const code of heads) {
      children.set(above, (children.get(above) ?? new Set()).add(code))
      above = code
    }
    below.set(above, [...(below.get(above) ?? []), row])
  }
  const sum = (list: readonly StatementRow[], of: 'figures' | 'exact') =>
    list[0]!.figures.map((_, at) =>
      list.reduce<Decimal | null>((total, row) => (row[of][at] ? add(total ?? zero, row[of][at]!) : total), null),
    )
  const visit = (code: string, above: readonly string[]): StatementRow[] => {
    const parts = [
      ...(below.get(code) ?? []).map(row => ({ code: row.account!.code, row })),
      ...[...(children.get(code) ?? [])].map(each => ({ code: each, row: undefined })),
    ].sort((a, b) => (a.code < b.code ? -1 : a.code > b.code ? 1 : a.row ? -1 : 1))
    return parts.flatMap(({ code: own, row }): StatementRow[] => {
      if (row) return [{ ...row, above }]
      const inside = visit(own, [...above, own])
      const leaves = inside.filter(each => each.part === 'account')
      const head = { ...leaves[0]!, account: byCode.get(own)!, above }
      const ends = again({ figures: sum(leaves, 'figures'), exact: sum(leaves, 'exact') }, rows[0]!.line)
      return [{ ...head, part: 'heading', figures: [], exact: [] }, ...inside, { ...head, part: 'ends', ...ends }]
    })
  }
  return visit('', [])
}

/** Accounts of the kinds that a statement speaks of which stand in none of its lines, or in several. */
function accountFaults(
  lines: readonly ReadyLine[],
  chosen: readonly number[][],
  columns: readonly StandingColumn[],
  books: LedgerFigures,
): Pick<ShapedStatement, 'missing' | 'twice'> {
  const held = new Map<number, string[]>()
  lines.forEach(({ line }, index) => {
    // the same account for another branch is not the same figure
    if (!line.branches?.length && !line.departments?.length)
      for (const place of chosen[index]!) held.set(place, [...(held.get(place) ?? []), line.id])
    else for (const place of chosen[index]!) held.set(place, held.get(place) ?? [])
  })
  const natures = new Set([...held.keys()].map(place => books.accounts[place]!.nature))
  const measured = columns.filter(column => holdsFigures(column.column))
  const missing = books.accounts.flatMap((account, place) => {
    if (held.has(place) || !natures.has(account.nature)) return []
    const amount = measured.map(column => books.of({ column })[place]!).find(each => !isZero(each))
    return amount ? [{ account, amount }] : []
  })
  const twice = [...held].flatMap(([place, ids]) =>
    ids.length > 1 && measured.some(column => !isZero(books.of({ column })[place]!))
      ? [{ account: books.accounts[place]!, lines: ids }]
      : [],
  )
  return { missing, twice }
}
