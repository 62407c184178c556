import type { Value } from '../value/value'
import { add, compareDecimals, type Decimal, decimal, divide, subtract, zero } from '../value/decimal'
import type { GridCell, GridRow } from './gridRows'

/**
 * How a spreadsheet works out a total of the cells above it: numbers of SUBTOTAL (OpenFormula 6.16.61), which leaves out other subtotals
 * among them.
 */
const functions = { sum: 9, average: 1, max: 4, min: 5 } as const
type Live = keyof typeof functions

/**
 * A formula over the cells of a column, from one row to another (both counted from 1), or over single ones, added (1) or taken off (−1).
 */
export type LiveTotal =
  | { function: (typeof functions)[Live]; column: number; from: number; to: number }
  | { column: number; terms: { row: number; by: 1 | -1 }[] }

/** What a column has held so far within a table or one of its groups. */
interface Column {
  key: string
  clean: boolean
  lines: boolean
  sum: Decimal
  count: number
  least: Decimal
  most: Decimal
}
interface Scope {
  at: unknown
  from: number
  columns: Map<number, Column>
}

/**
 * Finds which totals of a sheet the cells above them reproduce. It is told each row in order and answers, cell by cell, with the range
 * that a formula can stand over.
 * A formula is given only where every number in the range is one that the total adds up and the figure comes out exactly; anything else
 * stays a value.
 */
export class LiveTotals {
  private stack: { instance: number; table: string; scopes: Scope[] }[] = []
  private readonly asked = new Map<string | undefined, ReturnType<typeof totalOf>>()
  private readonly keys = new Map<string, Map<string | undefined, string>>()

  /** The totals of a row that can be formulas, by place among its cells; `number` is the row's own, from 1. */
  row(row: GridRow, number: number): Map<GridCell, LiveTotal> {
    const found = new Map<GridCell, LiveTotal>()
    if (row.instance === undefined) {
      this.stack = []
      return found
    }
    if (row.adds) return this.added(row, number)
    if (row.id !== undefined) this.remember(row, number)
    const own = this.enter(row, number)
    const scope = own.scopes.at(-1)!
    for (const cell of row.cells) {
      if (cell.value === undefined || cell.value === null || typeof cell.value !== 'object') continue
      const asked = this.askedBy(cell.formula)
      const held = scope.columns.get(cell.column)
      if ((row.kind === 'groupEnd' || row.kind === 'end') && asked && held && reproduces(asked, held, cell.value, own.table)) {
        found.set(cell, { function: functions[asked.name], column: cell.column, from: scope.from, to: number - 1 })
        continue
      }
      note(scope, cell.column, this.key(own.table, cell.formula), cell.value, row.kind === 'line')
    }
    return found
  }

  /** rows of a statement's printing by their ids, with their figures by column */
  private named = new Map<string, { number: number; figures: Map<number, Decimal> }>()
  private instance: number | undefined

  private remember(row: GridRow, number: number): void {
    if (row.instance !== this.instance) {
      this.named = new Map()
      this.instance = row.instance
    }
    this.named.set(row.id!, {
      number,
      figures: new Map(
        row.cells.flatMap(cell =>
          cell.value !== null && typeof cell.value === 'object' ? [[cell.column, cell.value as Decimal] as const] : [],
        ),
      ),
    })
  }

  /** A row of a statement is worked out from those it adds up, where these stand before it and their printed figures come to its own. */
  private added(row: GridRow, number: number): Map<GridCell, LiveTotal> {
    const found = new Map<GridCell, LiveTotal>()
    this.remember(row, number)
    // a row that is left out is nothing
    const parts = row.adds!.flatMap(({ row: id, by }) => (this.named.has(id) ? [{ ...this.named.get(id)!, by }] : []))
    if (!parts.length) return found
    for (const cell of row.cells) {
      // percentages are no sums, even where they happen to come out as one
      if (cell.value === null || typeof cell.value !== 'object' || cell.pattern?.includes('%')) continue
      const sum = parts.reduce<Decimal>((total, { figures, by }) => {
        const figure = figures.get(cell.column) ?? zero
        return by === 1 ? add(total, figure) : subtract(total, figure)
      }, zero)
      if (compareDecimals(sum, cell.value as Decimal) === 0)
        found.set(cell, { column: cell.column, terms: parts.map(part => ({ row: part.number, by: part.by })) })
    }
    return found
  }

  /** The table and groups in which a row stands are opened; those that have ended are closed. */
  private enter(row: GridRow, number: number): { table: string; scopes: Scope[] } {
    const known = this.stack.findIndex(each => each.instance === row.instance)
    // a table at the top level ends whatever stood before it
    if (known < 0 && row.depth <= row.nodes.length) this.stack = []
    if (known >= 0) {
      while (this.stack.length > known + 1) {
        const inner = this.stack.pop()!
        fold(inner.scopes, 0, this.stack.at(-1)!.scopes.at(-1)!)
      }
    } else this.stack.push({ instance: row.instance!, table: row.table!, scopes: [{ at: row.instance, from: number, columns: new Map() }] })
    const own = this.stack.at(-1)!
    let same = 1
    while (same <= row.nodes.length && own.scopes[same]?.at === row.nodes[same - 1]) same++
    fold(own.scopes, same, own.scopes[same - 1]!)
    for (let depth = same; depth <= row.nodes.length; depth++)
      own.scopes.push({ at: row.nodes[depth - 1], from: number, columns: new Map() })
    return own
  }

  private askedBy(formula: string | undefined): ReturnType<typeof totalOf> {
    if (!this.asked.has(formula)) this.asked.set(formula, totalOf(formula))
    return this.asked.get(formula)
  }

  /** What a cell adds to its column: a sum is as good as what it adds up. */
  private key(table: string, formula: string | undefined): string {
    let own = this.keys.get(table)
    if (!own) this.keys.set(table, (own = new Map()))
    let found = own.get(formula)
    if (found === undefined) {
      const asked = this.askedBy(formula)
      own.set(formula, (found = `${table} ${asked?.name === 'sum' ? asked.of : (formula ?? '')}`))
    }
    return found
  }
}

/** What scopes from a depth on have held goes to the one around them, innermost first, and they end. */
function fold(scopes: Scope[], from: number, around: Scope): void {
  while (scopes.length > from) {
    const inner = scopes.pop()!
    const outer = scopes.length > from ? scopes.at(-1)! : around
    inner.columns.forEach((held, column) => {
      const known = outer.columns.get(column)
      if (!known) {
        outer.columns.set(column, { ...held })
        return
      }
      known.clean &&= held.clean && held.key === known.key
      known.lines &&= held.lines
      known.sum = add(known.sum, held.sum)
      known.count += held.count
      if (compareDecimals(held.least, known.least) < 0) known.least = held.least
      if (compareDecimals(held.most, known.most) > 0) known.most = held.most
    })
  }
}

function note(scope: Scope, column: number, key: string, value: Decimal, line: boolean): void {
  const held = scope.columns.get(column)
  if (!held) {
    scope.columns.set(column, { key, clean: true, lines: line, sum: value, count: 1, least: value, most: value })
    return
  }
  held.clean &&= held.key === key
  held.lines &&= line
  held.sum = add(held.sum, value)
  held.count++
  if (compareDecimals(value, held.least) < 0) held.least = value
  if (compareDecimals(value, held.most) > 0) held.most = value
}

/** A total without a condition of its own, as authors write it: its name and what it totals. */
function totalOf(formula: string | undefined): { name: Live; of: string } | undefined {
  const call = formula && /^(sum|average|max|min)\((.*)\)$/s.exec(formula)
  if (!call || /\b(where|over):/.test(call[2]!) || !balanced(call[2]!)) return undefined
  return { name: call[1] as Live, of: call[2]!.trim() }
}

/** One argument and nothing after it: `a) / sum(b` is none. */
function balanced(text: string): boolean {
  let depth = 0
  for (const char of text) {
    if (char === '(') depth++
    else if (char === ')' && --depth < 0) return false
    else if (char === ',' && depth === 0) return false
  }
  return depth === 0
}

function reproduces(asked: { name: Live; of: string }, held: Column, figure: Value, table: string): boolean {
  if (!held.clean || held.key !== `${table} ${asked.of}` || typeof figure !== 'object' || figure === null) return false
  if (asked.name === 'sum') return compareDecimals(held.sum, figure) === 0
  if (!held.lines) return false
  const own = asked.name === 'average' ? (divide(held.sum, decimal(held.count, 0)) ?? zero) : asked.name === 'max' ? held.most : held.least
  return compareDecimals(own, figure) === 0
}
