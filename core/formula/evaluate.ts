import { Lineage } from './lineage'
import type { LevelInfo, Over, Typed } from './typed'
import type { Answer, Value } from '../value/value'
import type { DataRecords } from '../value/records'
import { valueAt } from '../value/columns'
import type { FiscalCalendar } from '../books/calendar'
import { type Day, dayText, parseDay } from '../value/date'
import { parseMoment } from '../value/moment'
import { add, compareDecimals, type Decimal, decimal, divide, negate, parseDecimal, zero } from '../value/decimal'
import { type Covered, type Evaluate, type GroupNode, nodeAt, type Standing } from './standing'
import { totalledCurrency } from './currency'
import { partsOf } from './parts'
import { plainText } from '../value/plain'
import { columnTotal } from './columnTotals'
import { callable } from './functions'
import { compareText } from '../value/text'
import { best, binary, equal, exactSum, mostFrequent, order } from './values'
import { periodValue } from './periodValue'

/** The records and answers that formulas are worked out from. */
export interface Surroundings {
  levels: readonly LevelInfo[]
  data: DataRecords
  parameters: Readonly<Record<string, Answer>>
  today: Day
  calendar?: FiscalCalendar
  /** what stands behind the name of a group that goes on */
  continued?: string
}

/** The rows that `over:` widens a row of a table to; undefined where it stands in none. */
function widened(covered: Covered | undefined, over: Over): Covered | undefined {
  if (!covered || typeof over === 'number' || over === 'report') return undefined
  const node = nodeAt(covered.node, over === 'table' ? -1 : over.group)
  return { rows: covered.rows, from: node.from, to: node.to, node }
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
        return at => {
          while (at.from >= at.to && at.level !== level && at.outer) at = at.outer
          return at.from >= at.to ? null : valueAt(column, at.level === level ? at.from : lineage.up(at.from, at.level, level))
        }
      }
      case 'parameter': {
        const value = around.parameters[node.name] ?? null
        if (Array.isArray(value)) throw new Error(`The parameter ${node.name} holds several values.`)
        return () => value as Value
      }
      case 'today':
        return () => around.today
      case 'page': {
        const { word } = node
        if (word === 'printed') return at => at.page?.printed ?? null
        return at => (at.page?.[word] === undefined ? null : decimal(at.page[word]!, 0))
      }
      case 'group': {
        const { word } = node
        return at => {
          const group = at.covered?.node
          if (!group || group.depth < 0) return null
          // what top n left over has no place
          if (word === 'number') return group.others ? null : decimal(group.number, 0)
          return at.continued ? `${group.label} ${around.continued ?? '(continued)'}` : group.label
        }
      }
      case 'rank':
        return rank(node, compile(node.value))
      case 'negative': {
        const value = compile(node.value)
        return at => {
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
        const known = node.list.flatMap(item =>
          item.is === 'parameter' && item.several
            ? ((around.parameters[item.name] ?? []) as readonly string[]).map(text => valueFrom(text, item.type))
            : [],
        )
        const [value, list] = [compile(node.value), [...singles.map(compile), ...known.map(each => () => each)]]
        return at => {
          const a = value(at)
          return list.some(item => equal(a, item(at)))
        }
      }
      case 'between': {
        const [value, low, high] = [compile(node.value), compile(node.low), compile(node.high)]
        return at => {
          const [a, b, c] = [value(at), low(at), high(at)]
          return a !== null && b !== null && c !== null && order(a, b) >= 0 && order(a, c) <= 0
        }
      }
      case 'binary':
        return binary(node, compile(node.left), compile(node.right))
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
        const known = callable[node.name]!
        const parts = node.arguments.map(compile)
        return at => {
          const values = parts.map(part => part(at))
          return !known.handlesEmpty && values.includes(null) ? null : known.evaluate(...values)
        }
      }
      case 'period': {
        const parts = node.arguments.map(compile)
        return at => {
          const values = parts.map(part => part(at))
          return values.includes(null) ? null : periodValue(node.name, values, around.calendar)
        }
      }
      case 'has': {
        const where = node.where && compile(node.where)
        return at => {
          if (at.from >= at.to) return false
          const row = lineage.up(at.from, at.level, node.standing)
          const [first, end] = lineage.down(row, row + 1, node.standing, node.level)
          if (!where) return end > first
          for (let each = first; each < end; each++) if (where({ level: node.level, from: each, to: each + 1 }) === true) return true
          return false
        }
      }
      case 'running':
        return node.list
          ? listed(running(node, compile(node.value), node.where && compile(node.where), texts))
          : (running(node, compile(node.value), node.where && compile(node.where), sums) as Evaluate)
      case 'carried':
        return node.list ? listed(carried(compile(node.value), texts)) : (carried(compile(node.value), sums) as Evaluate)
      case 'total':
        return total(node)
    }
  }

  /**
   * Sums from the first row of the innermost group (of the table, the record's parent); goes on from the last answer, since rows are made
   * in order.
   */
  const running = <S>(
    node: Typed & { is: 'running' },
    value: Evaluate,
    where: Evaluate | undefined,
    gather: Gathering<S>,
  ): ((at: Standing) => S) => {
    let [rows, from, to, sum]: [Int32Array | undefined, number, number, S] = [undefined, -1, -1, gather.start()]
    return at => {
      if (at.from >= at.to) return gather.start()
      const { covered } = at
      let first: number
      let end: number
      if (covered) {
        const own =
          node.over === undefined
            ? standsForGroup(covered)
              ? (covered.node.parent ?? covered.node)
              : covered.node
            : (widened(covered, node.over)?.node ?? covered.node)
        first = own.from
        end = covered.to
      } else {
        const { parent } = around.levels[node.level]!
        first = parent < 0 ? 0 : around.data.levels[node.level]!.starts[lineage.up(at.from, node.level, parent)]!
        end = at.from + 1
      }
      if (first !== from || covered?.rows !== rows || end < to) [rows, from, to, sum] = [covered?.rows, first, first, gather.start()]
      for (; to < end; to++) {
        const row = covered ? covered.rows[to]! : to
        const inner: Standing = { level: node.level, from: row, to: row + 1 }
        if (!where || where(inner) === true) sum = gather.add(sum, value(inner))
      }
      return sum
    }
  }

  /** One more than the neighbours that have more: lines of the same group, or groups of the same group around them. */
  const rank = (node: Typed & { is: 'rank' }, value: Evaluate): Evaluate => {
    const known = new WeakMap<GroupNode, Decimal[]>()
    const sortedOf = (key: GroupNode, standings: () => Standing[]): Decimal[] => {
      let found = known.get(key)
      if (!found)
        known.set(
          key,
          (found = standings()
            .map(each => value(each) as Decimal | null)
            .filter(each => each !== null)
            .sort(compareDecimals)),
        )
      return found
    }
    return at => {
      const own = value(at) as Decimal | null
      const { covered } = at
      // what top n left over has no place
      if (own === null || !covered || (standsForGroup(covered) && covered.node.others)) return null
      const { rows } = covered
      const around = standsForGroup(covered) ? (covered.node.parent ?? covered.node) : covered.node
      const base = node.over === undefined ? around : (widened(covered, node.over)?.node ?? around)
      const sorted = sortedOf(base, () =>
        standsForGroup(covered)
          ? groupsIn(base, covered.node.depth)
              .filter(each => !each.others)
              .map(each => ({
                level: at.level,
                from: rows[each.from]!,
                to: rows[each.from]! + 1,
                covered: { rows, from: each.from, to: each.to, node: each },
              }))
          : Array.from({ length: base.to - base.from }, (_, index) => base.from + index).map(place => ({
              level: at.level,
              from: rows[place]!,
              to: rows[place]! + 1,
              covered: { rows, from: place, to: place + 1, node: covered.node, line: true },
            })),
      )
      let [low, high] = [0, sorted.length]
      while (low < high) {
        const middle = (low + high) >> 1
        if (compareDecimals(sorted[middle]!, own) > 0) high = middle
        else low = middle + 1
      }
      return decimal(sorted.length - low + 1, 0)
    }
  }

  /** A total; of amounts in several currencies there is none (rule 13 of the semantics). */
  const total = (node: Typed & { is: 'total' }): Evaluate => {
    const found = totalled(node)
    const currency = totalledCurrency(node)
    if (!currency) return found
    const [code, value, where] = [compile(currency), compile(node.value!), node.where && compile(node.where)]
    const mixed = (at: Standing): boolean => {
      let first: Value | undefined
      for (const [from, to] of stretchesOf(node, at, around, lineage)) {
        for (let row = from; row < to; row++) {
          const inner: Standing = { level: node.level, from: row, to: row + 1 }
          if ((where && where(inner) !== true) || value(inner) === null) continue
          const own = code(inner)
          if (first === undefined) first = own
          else if (first !== own) return true
        }
      }
      return false
    }
    return at => (mixed(at) ? null : found(at))
  }

  const totalled = (node: Typed & { is: 'total' }): Evaluate => {
    const value = node.value && compile(node.value)
    const where = node.where && compile(node.where)
    const plain =
      node.value?.is === 'field' && !node.where && node.value.level === node.level && node.once === undefined
        ? around.data.levels[node.level]!.columns[node.value.path]
        : undefined
    const stretches = (at: Standing) => stretchesOf(node, at, around, lineage)
    const valuesIn = function* (at: Standing): Iterable<Value> {
      const seen = node.once === undefined ? undefined : new Set<number>()
      for (const [first, end] of stretches(at)) {
        for (let row = first; row < end; row++) {
          const inner: Standing = { level: node.level, from: row, to: row + 1 }
          if (where && where(inner) !== true) continue
          if (seen && isSeen(seen, lineage.up(row, node.level, node.once!))) continue
          const each = value ? value(inner) : true
          if (each !== null) yield each
        }
      }
    }
    const onColumn = plain && columnTotal(node, plain)
    if (!onColumn) return byValues(node, valuesIn)
    const otherwise = byValues(node, valuesIn)
    return at => {
      const found = onColumn(visit => {
        const covered = node.over === undefined && at.level === node.level ? at.covered : undefined
        if (covered) for (let place = covered.from; place < covered.to; place++) visit(covered.rows[place]!)
        else for (const [first, end] of stretches(at)) for (let row = first; row < end; row++) visit(row)
      })
      return found === undefined ? otherwise(at) : found
    }
  }
  return compile(typed)
}

/** A total worked out from the values that it is of, one by one. */
function byValues(node: Typed & { is: 'total' }, valuesIn: (at: Standing) => Iterable<Value>): Evaluate {
  const numbersIn = (at: Standing) => ([...valuesIn(at)] as Decimal[]).sort(compareDecimals)
  switch (node.name) {
    case 'sum':
      return at => exactSum(valuesIn(at))
    case 'count':
      return at => {
        let count = 0
        for (const _ of valuesIn(at)) count++
        return decimal(count, 0)
      }
    case 'distinct':
      return at => {
        const seen = new Set<string>()
        for (const each of valuesIn(at)) seen.add(plainText(each, dayText))
        return decimal(seen.size, 0)
      }
    case 'average':
      return at => {
        const values = [...valuesIn(at)]
        return values.length ? (divide(exactSum(values), decimal(values.length, 0)) ?? null) : null
      }
    case 'min':
      return at => best(valuesIn(at), -1)
    case 'max':
      return at => best(valuesIn(at), 1)
    case 'median':
      return at => {
        const numbers = numbersIn(at)
        const middle = numbers.length >> 1
        return numbers.length === 0
          ? null
          : numbers.length % 2
            ? numbers[middle]!
            : (divide(add(numbers[middle - 1]!, numbers[middle]!), decimal(2, 0)) ?? null)
      }
    // different values, for totals that are printed one by one
    case 'list':
      return at => [...new Set([...valuesIn(at)].map(each => plainText(each, dayText)))].sort(compareText).join('\u0000')
    case 'listed':
      return at => [...new Set([...valuesIn(at)].map(each => String(each)))].join(', ') || null
    case 'mode':
      return at => mostFrequent(valuesIn(at))
    case 'largest':
      return at => numbersIn(at).at(-node.count!) ?? null
    case 'smallest':
      return at => numbersIn(at)[node.count! - 1] ?? null
    case 'first':
      return at => {
        for (const each of valuesIn(at)) return each
        return null
      }
    default:
      return at => {
        let last: Value = null
        for (const each of valuesIn(at)) last = each
        return last
      }
  }
}

/** The records behind a formula: of each total in it those that it counts, with what each adds to it. */
export function recordsBehind(
  typed: Typed,
  around: Surroundings,
  lineage: Lineage,
): (at: Standing) => { total: Typed & { is: 'total' }; rows: number[]; values: Value[] }[] {
  const found: (Typed & { is: 'total' })[] = []
  const visit = (node: Typed): void => {
    if (node.is === 'total') found.push(node)
    else if (node.is === 'running')
      found.push({ is: 'total', type: 'number', name: 'sum', level: node.level, value: node.value, where: node.where, over: node.over })
    else partsOf(node).forEach(visit)
  }
  visit(typed)
  return at =>
    found.map(total => {
      const value = total.value && compileFormula(total.value, around, lineage)
      const where = total.where && compileFormula(total.where, around, lineage)
      const [rows, values]: [number[], Value[]] = [[], []]
      const seen = total.once === undefined ? undefined : new Set<number>()
      for (const [first, end] of stretchesOf(total, at, around, lineage)) {
        for (let row = first; row < end; row++) {
          const inner: Standing = { level: total.level, from: row, to: row + 1 }
          if (where && where(inner) !== true) continue
          if (seen && isSeen(seen, lineage.up(row, total.level, total.once!))) continue
          const each = value ? value(inner) : true
          if (each === null) continue
          rows.push(row)
          values.push(each)
        }
      }
      return { total, rows, values }
    })
}

/** Was it there before? It is from now on. */
function isSeen(seen: Set<number>, row: number): boolean {
  if (seen.has(row)) return true
  seen.add(row)
  return false
}

/** The records of a total's level that it counts from where it stands, before its `where`. */
function stretchesOf(node: Typed & { is: 'total' }, at: Standing, around: Surroundings, lineage: Lineage): Iterable<[number, number]> {
  if (node.over === 'report') return lineage.covered(0, around.data.levels[0]!.count, 0, node.level)
  const covered = node.over === undefined ? at.covered : widened(at.covered, node.over)
  if (covered) return lineage.coveredRows(covered, at.level, node.level)
  if (typeof node.over === 'number') {
    const record = lineage.up(at.from, at.level, node.over)
    return lineage.covered(record, record + 1, node.over, node.level)
  }
  return lineage.covered(at.from, at.to, at.level, node.level)
}

/** A value out of its text, as answers and choices write it; empty where it is none of its type. */
export function valueFrom(text: string, type: Typed['type']): Value {
  switch (type) {
    case 'number':
      return parseDecimal(text) ?? null
    case 'date':
      return parseDay(text) ?? null
    case 'moment':
      return parseMoment(text) ?? null
    case 'boolean':
      return /^(yes|true|t)$/i.test(text) ? true : /^(no|false|f)$/i.test(text) ? false : null
    default:
      return text
  }
}

/** How values of rows come together one after another. */
interface Gathering<S> {
  start: () => S
  add: (sum: S, value: Value) => S
}
const sums: Gathering<Decimal> = { start: () => zero, add: (sum, value) => (value === null ? sum : add(sum, value as Decimal)) }
const texts: Gathering<ReadonlySet<string>> = {
  start: () => new Set(),
  add: (seen, value) => (value === null || seen.has(value as string) ? seen : new Set([...seen, value as string])),
}
const listed =
  (seen: (at: Standing) => ReadonlySet<string>): Evaluate =>
  at =>
    [...seen(at)].sort(compareText).join('\u0000')

/** What a table has added up so far; goes on from the last answer, since pages are made in order. */
function carried<S>(value: Evaluate, gather: Gathering<S>): (at: Standing) => S {
  let [rows, from, to, sum]: [Int32Array | undefined, number, number, S] = [undefined, -1, -1, gather.start()]
  return at => {
    const [first, end] = [at.carriedFrom ?? at.from, at.carriedTo ?? at.from]
    if (first !== from || end < to || at.covered?.rows !== rows) [rows, from, to, sum] = [at.covered?.rows, first, first, gather.start()]
    for (; to < end; to++) {
      const row = rows ? rows[to]! : to
      sum = gather.add(sum, value({ level: at.level, from: row, to: row + 1 }))
    }
    return sum
  }
}

/** Do rows belong to a group's own rows or the table's, and not to a line? */
const standsForGroup = (covered: Covered) => !covered.line

function groupsIn(node: GroupNode, depth: number): GroupNode[] {
  return node.depth === depth - 1 ? node.children : node.children.flatMap(each => groupsIn(each, depth))
}
