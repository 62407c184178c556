import { commonLevel, isWithin, type LevelInfo } from '../dataset/levels'
import { type Answer, type DataRecords, parentRows, type Value, valueAt } from '../dataset/records'
import { addPeriods, findPeriod, type FiscalCalendar, periodOf, yearStart } from '../statement/calendar'
import { dayText, type Day, parseDay } from '../value/date'
import { add, compareDecimals, type Decimal, decimal, divide, multiply, negate, parseDecimal, round, subtract, toNumber, zero } from '../value/decimal'
import type { PageWord, Typed } from './check'
import { plainText, scalarFunctions } from './functions'
import { compareText } from './text'

/** Where a formula stands: the records `from` up to (not including) `to` of a level; single values are those of the first. */
export interface Standing {
  level: number
  from: number
  to: number
  page?: Partial<Record<PageWord, number>>
  /** first record of this table that is not yet carried: `carried` adds up [carriedFrom, carriedTo) */
  carriedFrom?: number
  carriedTo?: number
}

export type Evaluate = (at: Standing) => Value

/** The records and answers that formulas are worked out from. */
export interface Surroundings {
  levels: readonly LevelInfo[]
  data: DataRecords
  parameters: Readonly<Record<string, Answer>>
  today: Day
  calendar?: FiscalCalendar
}

/** Rows of ancestors for each level of some records; made once per chunk of records. */
export class Lineage {
  private readonly parents: (Int32Array | undefined)[] = []
  constructor(readonly levels: readonly LevelInfo[], readonly data: DataRecords) {}

  /** Row of the ancestor at level `to` of a record of level `from`. */
  up(row: number, from: number, to: number): number {
    let at = from
    while (at !== to) {
      row = (this.parents[at] ??= parentRows(this.data.levels[at]!))[row]!
      at = this.levels[at]!.parent
    }
    return row
  }

  /** Records of the descendant level `to` under the stretch [first, end) of level `from`: again one stretch, since children lie together. */
  down(first: number, end: number, from: number, to: number): [number, number] {
    const path: number[] = []
    for (let at = to; at !== from; at = this.levels[at]!.parent) path.push(at)
    for (let i = path.length - 1; i >= 0; i--) {
      const { starts } = this.data.levels[path[i]!]!
      first = starts[first]!
      end = starts[end]!
    }
    return [first, end]
  }

  /**
   * The records of level `to` that a row covering [first, end) of level `from` speaks of (rule 7 of the semantics):
   * ancestors once each, descendants all, and by way of the common ancestors for a sibling branch.
   */
  * covered(first: number, end: number, from: number, to: number): Iterable<[number, number]> {
    if (isWithin(this.levels, to, from)) {
      yield this.down(first, end, from, to)
      return
    }
    const common = commonLevel(this.levels, from, to)
    let last = -1
    for (let row = first; row < end; row++) {
      const ancestor = this.up(row, from, common)
      if (ancestor !== last) yield this.down(ancestor, ancestor + 1, common, to)
      last = ancestor
    }
  }
}

/**
 * Turns a checked formula into a function of the row it stands in. Empty is not zero (rule 14): arithmetic with empty is empty,
 * comparisons are always true or false, totals skip empty.
 */
export function compileFormula(typed: Typed, around: Surroundings, lineage = new Lineage(around.levels, around.data)): Evaluate {
  const compile = (node: Typed): Evaluate => {
    switch (node.is) {
      case 'constant': {
        const { value } = node
        return () => value
      }
      case 'field': {
        const column = around.data.levels[node.level]!.columns[node.path]
        if (!column) throw new Error(`The field ${node.path} was not read.`)
        const { level } = node
        return at => at.from >= at.to && at.level === level ? null : valueAt(column, at.level === level ? at.from : lineage.up(at.from, at.level, level))
      }
      case 'parameter': {
        const value = around.parameters[node.name] ?? null
        if (Array.isArray(value)) throw new Error(`The parameter ${node.name} holds several values.`)
        return () => value as Value
      }
      case 'today': return () => around.today
      case 'page': {
        const { word } = node
        return at => at.page?.[word] === undefined ? null : decimal(at.page[word]!, 0)
      }
      case 'negative': {
        const value = compile(node.value)
        return (at) => {
          const a = value(at) as Decimal | null
          return a === null ? null : negate(a)
        }
      }
      case 'not': {
        const value = compile(node.value)
        return at => value(at) !== true
      }
      case 'in': {
        const singles = node.list.filter(item => !(item.is === 'parameter' && item.several))
        const known = node.list.flatMap(item => item.is === 'parameter' && item.several ? ((around.parameters[item.name] ?? []) as readonly string[]).map(text => valueFrom(text, item.type)) : [])
        const [value, list] = [compile(node.value), [...singles.map(compile), ...known.map(each => () => each)]]
        return (at) => {
          const a = value(at)
          return list.some(item => equal(a, item(at)))
        }
      }
      case 'between': {
        const [value, low, high] = [compile(node.value), compile(node.low), compile(node.high)]
        return (at) => {
          const [a, b, c] = [value(at), low(at), high(at)]
          return a !== null && b !== null && c !== null && order(a, b) >= 0 && order(a, c) <= 0
        }
      }
      case 'binary': return binary(node, compile(node.left), compile(node.right))
      case 'if': {
        const cases = node.cases.map(each => ({ test: compile(each.test), result: compile(each.result) }))
        const otherwise = compile(node.otherwise)
        return at => (cases.find(each => each.test(at) === true)?.result ?? otherwise)(at)
      }
      case 'ifEmpty': {
        const [value, otherwise] = [compile(node.value), compile(node.otherwise)]
        return at => value(at) ?? otherwise(at)
      }
      case 'call': {
        const known = scalarFunctions[node.name]!
        const parts = node.arguments.map(compile)
        return (at) => {
          const values = parts.map(part => part(at))
          return !known.handlesEmpty && values.includes(null) ? null : known.evaluate(...values)
        }
      }
      case 'period': {
        const parts = node.arguments.map(compile)
        return (at) => {
          const values = parts.map(part => part(at))
          return values.includes(null) ? null : periodValue(node.name, values, around.calendar)
        }
      }
      case 'has': {
        const where = node.where && compile(node.where)
        return (at) => {
          if (at.from >= at.to) return false
          const row = lineage.up(at.from, at.level, node.standing)
          const [first, end] = lineage.down(row, row + 1, node.standing, node.level)
          if (!where) return end > first
          for (let each = first; each < end; each++) if (where({ level: node.level, from: each, to: each + 1 }) === true) return true
          return false
        }
      }
      case 'running': return running(node, compile(node.value), node.where && compile(node.where))
      case 'carried': return carried(compile(node.value))
      case 'total': return total(node)
    }
  }

  /** Sums from the first record under the same parent; goes on from the last answer, since rows are made in order. */
  const running = (node: Typed & { is: 'running' }, value: Evaluate, where: Evaluate | undefined): Evaluate => {
    let [from, to, sum] = [-1, -1, zero]
    return (at) => {
      if (at.from >= at.to) return zero
      const { parent } = around.levels[node.level]!
      const first = parent < 0 ? 0 : around.data.levels[node.level]!.starts[lineage.up(at.from, node.level, parent)]!
      if (first !== from || at.from + 1 < to) [from, to, sum] = [first, first, zero]
      for (; to <= at.from; to++) {
        const inner: Standing = { level: node.level, from: to, to: to + 1 }
        if (!where || where(inner) === true) sum = add(sum, (value(inner) as Decimal | null) ?? zero)
      }
      return sum
    }
  }

  const total = (node: Typed & { is: 'total' }): Evaluate => {
    const value = node.value && compile(node.value)
    const where = node.where && compile(node.where)
    const plain = node.value?.is === 'field' && node.value.field.type === 'number' && !node.where && node.value.level === node.level
      ? around.data.levels[node.level]!.columns[node.value.path] : undefined
    const stretches = (at: Standing): Iterable<[number, number]> => {
      if (node.over === 'report') return lineage.covered(0, around.data.levels[0]!.count, 0, node.level)
      if (node.over !== undefined) {
        const record = lineage.up(at.from, at.level, node.over)
        return lineage.covered(record, record + 1, node.over, node.level)
      }
      return lineage.covered(at.from, at.to, at.level, node.level)
    }
    const valuesIn = function* (at: Standing): Iterable<Value> {
      for (const [first, end] of stretches(at)) {
        for (let row = first; row < end; row++) {
          const inner: Standing = { level: node.level, from: row, to: row + 1 }
          if (where && where(inner) !== true) continue
          const each = value ? value(inner) : true
          if (each !== null) yield each
        }
      }
    }
    if (node.name === 'sum' && plain?.kind === 'number' && !plain.wide) {
      return (at) => {
        let units = 0
        for (const [first, end] of stretches(at)) {
          for (let row = first; row < end; row++) {
            const each = plain.values[row]!
            if (each === each) units += each
            // one step beyond the safe integers may have lost a digit: count again with all of them
            if (units > Number.MAX_SAFE_INTEGER || units < -Number.MAX_SAFE_INTEGER) return exactSum(valuesIn(at))
          }
        }
        return { units, scale: plain.scale }
      }
    }
    switch (node.name) {
      case 'sum': return at => exactSum(valuesIn(at))
      case 'count': return (at) => {
        let count = 0
        for (const _ of valuesIn(at)) count++
        return decimal(count, 0)
      }
      case 'distinct': return (at) => {
        const seen = new Set<string>()
        for (const each of valuesIn(at)) seen.add(plainText(each, dayText))
        return decimal(seen.size, 0)
      }
      case 'average': return (at) => {
        const values = [...valuesIn(at)]
        return values.length ? divide(exactSum(values), decimal(values.length, 0)) ?? null : null
      }
      case 'min': return at => best(valuesIn(at), -1)
      case 'max': return at => best(valuesIn(at), 1)
      case 'first': return (at) => {
        for (const each of valuesIn(at)) return each
        return null
      }
      default: return (at) => {
        let last: Value = null
        for (const each of valuesIn(at)) last = each
        return last
      }
    }
  }
  return compile(typed)
}

/** A value out of its text, as answers and choices write it; empty where it is none of its type. */
export function valueFrom(text: string, type: Typed['type']): Value {
  switch (type) {
    case 'number': return parseDecimal(text) ?? null
    case 'date': return parseDay(text) ?? null
    case 'boolean': return /^(yes|true|t)$/i.test(text) ? true : /^(no|false|f)$/i.test(text) ? false : null
    default: return text
  }
}

/** What a function of the fiscal calendar gives; empty where the calendar does not reach. */
export function periodValue(name: string, values: readonly Value[], calendar: FiscalCalendar | undefined): Value {
  switch (name) {
    case 'period': return periodOf(calendar, values[0] as Day)?.code ?? null
    case 'periodStart': return findPeriod(calendar, values[0] as string)?.start ?? null
    case 'periodEnd': return findPeriod(calendar, values[0] as string)?.end ?? null
    case 'yearStart': return yearStart(calendar, values[0] as string) ?? null
    default: return addPeriods(calendar, values[0] as string, toNumber(round(values[1] as Decimal, 0)))?.code ?? null
  }
}

/** What a table has added up so far; goes on from the last answer, since pages are made in order. */
function carried(value: Evaluate): Evaluate {
  let [from, to, sum] = [-1, -1, zero]
  return (at) => {
    const [first, end] = [at.carriedFrom ?? at.from, at.carriedTo ?? at.from]
    if (first !== from || end < to) [from, to, sum] = [first, first, zero]
    for (; to < end; to++) sum = add(sum, (value({ level: at.level, from: to, to: to + 1 }) as Decimal | null) ?? zero)
    return sum
  }
}

function exactSum(values: Iterable<Value>): Decimal {
  let sum = zero
  for (const value of values) sum = add(sum, value as Decimal)
  return sum
}

function best(values: Iterable<Value>, direction: 1 | -1): Value {
  let found: Value = null
  for (const value of values) if (found === null || order(value, found) * direction > 0) found = value
  return found
}

function binary(node: Typed & { is: 'binary' }, left: Evaluate, right: Evaluate): Evaluate {
  const arithmetic = (work: (a: Decimal, b: Decimal) => Value): Evaluate => (at) => {
    const a = left(at) as Decimal | null
    if (a === null) return null
    const b = right(at) as Decimal | null
    return b === null ? null : work(a, b)
  }
  const compared = (test: (difference: number) => boolean): Evaluate => (at) => {
    const [a, b] = [left(at), right(at)]
    return a !== null && b !== null && test(order(a, b))
  }
  switch (node.operator) {
    case '+': return arithmetic(add)
    case '-': return arithmetic(subtract)
    case '*': return arithmetic(multiply)
    case '/': return arithmetic((a, b) => divide(a, b) ?? null)
    case '&': return at => plainText(left(at), dayText) + plainText(right(at), dayText)
    case '=': return at => equal(left(at), right(at))
    case '!=': return at => !equal(left(at), right(at))
    case '<': return compared(difference => difference < 0)
    case '<=': return compared(difference => difference <= 0)
    case '>': return compared(difference => difference > 0)
    case '>=': return compared(difference => difference >= 0)
    case 'and': return at => left(at) === true && right(at) === true
    case 'or': return at => left(at) === true || right(at) === true
  }
}

/** Equality: empty equals only empty; text by its exact characters. */
export function equal(a: Value, b: Value): boolean {
  if (a === null || b === null) return a === b
  if (typeof a === 'object' && typeof b === 'object') return compareDecimals(a, b) === 0
  return a === b
}

/** Order of two values of one type that are not empty. */
export function order(a: Value, b: Value): number {
  if (typeof a === 'object' && typeof b === 'object') return compareDecimals(a!, b!)
  if (typeof a === 'string' && typeof b === 'string') return compareText(a, b)
  return Number(a) - Number(b)
}
