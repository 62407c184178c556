import { dayOfMoment, type Moment } from '../../value/moment'
import type { Place } from '../place'
import type { DataRecords } from '../../value/records'
import { valueAt } from '../../value/columns'
import type { Value } from '../../value/value'
import type { GroupDefinition } from '../../definition/blocks/table'
import type { Evaluate, GroupNode, Standing } from '../../formula/standing'
import { FormulaError } from '../../formula/syntax'
import { periodValue } from '../../formula/periodValue'
import { order } from '../../formula/values'
import type { Lineage } from '../../formula/lineage'
import { plainText } from '../../value/plain'
import { compareText } from '../../value/text'
import { type GroupShape, type Shaped, shapeGroups } from '../../shape/groups'
import { findPeriod, type FiscalCalendar, periodLabel } from '../../books/calendar'
import { dateParts, type Day, dayOf, dayText, monthStart } from '../../value/date'
import { dateFormat, momentFormat } from '../../value/dateFormat'
import { compareDecimals, type Decimal, decimal, parseDecimal } from '../../value/decimal'
import { numberFormat } from '../../value/numberFormat'
import type { Typed } from '../../formula/typed'
import type { PreparedGroup, PreparedTable } from '../prepared'
import { patternOf } from '../text'
import type { Values } from '../values'
import { pageWordsOf } from '../words'

/** The orders that groups come in: of texts and of values. */
export const groupOrders = { text: compareText, value: order }

/** What grouping needs of the place where a table is laid out. */
export interface GroupingPlace {
  data: DataRecords
  lineage: Lineage
  evaluate: (typed: Typed) => Evaluate
  calendar?: FiscalCalendar | undefined
  language: string
}

/** Where groups are found among the records that values are worked out of. */
export const groupingPlace = (values: Values): GroupingPlace => ({
  data: values.data,
  lineage: values.lineage,
  evaluate: typed => values.evaluate(typed),
  calendar: values.options.calendar,
  language: values.language,
})

/** The rows of a table in printed order with their groups. */
export function shapedRows({ values, remarks }: Place, table: PreparedTable, rows: Int32Array): Shaped {
  const shaped = shapeTable(table, rows, groupingPlace(values))
  for (const { depth, label } of shaped.twins) {
    const { group } = table.groups[depth]!
    remarks.count(`twins ${table.block.id} ${group.id} ${label}`, {
      kind: 'twins',
      block: table.block.id,
      part: 'groupStart',
      sentence: `Two groups are called “${label}”; they stay apart, with their codes.`,
      remedies: [],
    })
  }
  remarks.split(table, shaped)
  remarks.dates(table, shaped.rows)
  return shaped
}

/** Puts the records of a table into its groups and orders, ready to be printed. */
function shapeTable(table: PreparedTable, rows: Int32Array, place: GroupingPlace): Shaped {
  const { level } = table
  const sort = table.sort.map(({ by, descending }) => ({ value: place.evaluate(by), direction: descending ? -1 : 1 }))
  const lines = sort.length
    ? (a: number, b: number): number => {
        for (const { value, direction } of sort) {
          const [x, y] = [value({ level, from: a, to: a + 1 }), value({ level, from: b, to: b + 1 })]
          if (x === null || y === null) {
            if (x !== y) return x === null ? 1 : -1
            continue
          }
          const difference = order(x, y) * direction
          if (difference) return difference
        }
        return 0
      }
    : undefined
  const shapes = table.groups.map((group, depth) => groupShape(group, depth, level, place))
  return shapeGroups(rows, shapes, groupOrders, lines)
}

/** How records are put into a group that was prepared, at its depth. */
export function groupShape(prepared: PreparedGroup, depth: number, level: number, place: GroupingPlace): GroupShape {
  const { group, by } = prepared
  const evaluate = place.evaluate(by)
  const raw = (row: number) => evaluate({ level, from: row, to: row + 1 })
  const step = stepped(group, place)
  const value = step ? (row: number) => step.value(raw(row)) : raw
  const label = labeller(prepared, step, place)
  const total = (typed: Typed): ((rows: Int32Array) => Value) => {
    const compiled = place.evaluate(typed)
    return rows => {
      const node: GroupNode = { depth, from: 0, to: rows.length, children: [], label: '', number: 1 }
      const at: Standing = { level, from: rows[0]!, to: rows[0]! + 1, covered: { rows, from: 0, to: rows.length, node } }
      return compiled(at)
    }
  }
  const shape: GroupShape = {
    key: keyOf(prepared, level, value, place),
    value,
    label: row => label(value(row)),
    order: {
      by: group.order.by,
      descending: group.order.descending,
      ...(group.order.given ? { given: group.order.given } : {}),
      ...(prepared.total ? { total: total(prepared.total) } : {}),
    },
  }
  if (prepared.code && by.is === 'field') {
    const column = place.data.levels[by.level]!.columns[prepared.code]
    if (column) shape.code = row => plainText(valueAt(column, place.lineage.up(row, level, by.level)), dayText)
  }
  if (group.top && prepared.topTotal)
    shape.top = {
      count: group.top.count,
      last: !!group.top.last,
      total: total(prepared.topTotal),
      ...(group.top.others ? { others: group.top.others } : {}),
    }
  if (prepared.every && step) shape.every = everyStretch(prepared.every, step, place)
  if (prepared.having) {
    const holds = total(prepared.having)
    shape.keep = rows => holds(rows) === true
  }
  return shape
}

/** Days between two dates up to which each stretch is put in: more than a hundred years of them. */
const mostDays = 40_000

/** Each stretch of dates between two dates. */
function everyStretch({ from, to }: NonNullable<PreparedGroup['every']>, step: Step, { evaluate }: GroupingPlace): GroupShape['every'] {
  const [first, last] = [from, to].map(each => evaluate(each)({ level: -1, from: 0, to: 1 }) as Day | null)
  if (first == null || last == null) return []
  if (last - first > mostDays)
    throw new FormulaError('An axis shows each stretch of at most a hundred years; bring its two dates nearer to one another.', 0, 0)
  const found = new Map<string, { value: Value; label: string }>()
  for (let day = first; day <= last; day++) {
    const value = step.value(day)
    if (value === null) continue
    const label = step.label(value)
    if (!found.has(label)) found.set(label, { value, label })
  }
  return [...found.values()]
}

function keyOf(prepared: PreparedGroup, level: number, value: (row: number) => Value, place: GroupingPlace): (row: number) => string {
  const { by, key } = prepared
  const own = (row: number) => {
    const each = value(row)
    return each === null ? '' : `=${plainText(each, dayText)}`
  }
  if (!key || by.is !== 'field') return own
  if (key === 'ancestor') return row => String(place.lineage.up(row, level, by.level)).padStart(12, '0')
  const columns = key.map(path => place.data.levels[by.level]!.columns[path]!)
  const [first] = columns
  if (columns.length === 1 && first!.kind === 'number' && !first!.wide) {
    // thousands of rows share a few keys
    const { values } = first!
    const known = new Map<number, string>()
    return row => {
      const at = place.lineage.up(row, level, by.level)
      const units = values[at]!
      if (units !== units) return own(row)
      let found = known.get(units)
      if (found === undefined) known.set(units, (found = `=${sortable(valueAt(first!, at))}`))
      return found
    }
  }
  return row => {
    const at = place.lineage.up(row, level, by.level)
    const parts = columns.map(column => valueAt(column, at))
    // a record without a key (rows taken in from a file) is told apart by its name
    return parts.includes(null) ? own(row) : `=${parts.map(part => sortable(part)).join('\u0000')}`
  }
}

/** Whole numbers sort as text in the order of their values. */
const sortable = (value: Value) =>
  typeof value === 'object' && value !== null && value.scale === 0 ? plainText(value, dayText).padStart(20, '0') : plainText(value, dayText)

interface Step {
  value: (value: Value) => Value
  label: (value: Value) => string
}

/** Stretches of a date or ranges of a number. */
function stepped(group: GroupDefinition, place: GroupingPlace): Step | undefined {
  const words = pageWordsOf(place.language)
  if (group.edges?.length) {
    const edges = [...group.edges].sort((a, b) => a - b).map(edge => parseDecimal(String(edge))!)
    // an edge is called by all its digits
    const print = numberFormat(`#,##0.${'#'.repeat(Math.max(2, ...edges.map(edge => edge.scale)))}`, place.language)
    return {
      value: value => (value === null ? null : decimal(edges.filter(edge => compareDecimals(value as Decimal, edge) > 0).length, 0)),
      label: value => {
        const at = Number((value as Decimal).units)
        return at === 0
          ? `${words.upTo} ${print(edges[0]!)}`
          : at === edges.length
            ? `${words.over} ${print(edges.at(-1)!)}`
            : `${print(edges[at - 1]!)} ${words.to} ${print(edges[at]!)}`
      },
    }
  }
  if (!group.step) return undefined
  const step = datedStep(group.step, place)
  // a date with a time lies in the stretch of its day
  return { ...step, value: value => step.value(typeof value === 'bigint' ? dayOfMoment(value) : value) }
}

/** Stretches of dates. */
function datedStep(step: NonNullable<GroupDefinition['step']>, place: GroupingPlace): Step {
  const words = pageWordsOf(place.language)
  const dates = (pattern: string) => {
    const print = dateFormat(pattern, place.language)
    return (value: Value) => print(value as Day)
  }
  const start =
    (of: (day: Day) => Day) =>
    (value: Value): Value =>
      value === null ? null : of(value as Day)
  switch (step) {
    case 'day':
      return { value: value => value, label: dates('d MMM y') }
    // ISO 8601 weeks begin on Monday; day 0 (1 January 1970) was a Thursday
    case 'week':
      return { value: start(day => day - ((((day + 3) % 7) + 7) % 7)), label: value => `${words.week} ${dates('d MMM y')(value)}` }
    case 'month':
      return { value: start(monthStart), label: dates('MMMM y') }
    case 'quarter':
      return {
        value: start(day => {
          const { year, month } = dateParts(day)
          return dayOf(year, Math.floor((month - 1) / 3) * 3 + 1, 1)
        }),
        label: value => {
          const { year, month } = dateParts(value as Day)
          return `${words.quarter}${Math.floor((month - 1) / 3) + 1} ${year}`
        },
      }
    case 'year':
      return { value: start(day => dayOf(dateParts(day).year, 1, 1)), label: dates('y') }
    case 'period':
      return {
        value: value => (value === null ? null : periodValue('period', [value], place.calendar)),
        label: value => {
          const period = findPeriod(place.calendar, value as string)
          return period ? periodLabel(period) : String(value)
        },
      }
  }
}

function labeller(prepared: PreparedGroup, step: Step | undefined, place: GroupingPlace): (value: Value) => string {
  const none = prepared.group.none ?? pageWordsOf(place.language).none
  const pattern = patternOf(prepared.by)
  const print =
    step?.label ??
    (prepared.by.type === 'number' && pattern
      ? (value: Value) => numberFormat(pattern, place.language)(value as Decimal)
      : prepared.by.type === 'date' && pattern
        ? (value: Value) => dateFormat(pattern, place.language)(value as Day)
        : prepared.by.type === 'moment' && pattern
          ? (value: Value) => momentFormat(pattern, place.language)(value as Moment)
          : (value: Value) => plainText(value, dayText))
  return value => (value === null || value === '' ? none : print(value))
}
