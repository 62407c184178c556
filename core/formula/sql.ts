import { sql, type SQL } from 'drizzle-orm'
import type { FieldInfo, Typed } from './typed'
import type { Answer, Value } from '../value/value'
import { type FiscalCalendar, type FiscalPeriod, ordinaryPlace } from '../books/calendar'
import { type Day, dayText } from '../value/date'
import { decimalText, divisionScale } from '../value/decimal'
import { momentText } from '../value/moment'
import { plainText } from '../value/plain'
import { partsOf, weightOf } from './parts'
import { valueFrom } from './evaluate'
import { periodValue } from './periodValue'
import { callable, dayOfMoment } from './functions'
import { arrayOf, sqlTypes, sorted } from '../catalog/dialect'

/** What the SQL of a formula is made from. */
export interface SqlSurroundings {
  /** the column that a field is read from */
  column: (path: string, field: FieldInfo) => SQL
  parameters: Readonly<Record<string, Answer>>
  today: Day
  calendar?: FiscalCalendar
  /** is there such a record in a level below? */
  has?: (node: Typed & { is: 'has' }) => SQL
}

/** Can the database work it out for a record of a level? Not what speaks of other levels, of rows or of pages. */
export function hasSql(typed: Typed, level: number): boolean {
  switch (typed.is) {
    case 'field':
      return typed.level === level && typed.field.inSql !== false
    case 'page':
    case 'total':
    case 'carried':
    case 'running':
    case 'has':
    case 'rank':
    case 'group':
      return false
    case 'call':
      return !!callable[typed.name]!.sql && typed.arguments.every(part => hasSql(part, level))
    default:
      return partsOf(typed).every(part => hasSql(part, level))
  }
}

/**
 * The same formula as SQL, with all values bound. Tests come out as true or false, never null, as rule 14 of the semantics wants;
 * a test that must hold (`required`) may leave null for false, so that an index can still serve it.
 */
export function formulaSql(typed: Typed, around: SqlSurroundings, required = false): SQL {
  const of = (node: Typed) => formulaSql(node, around)
  const settled = (test: SQL) => (required ? test : sql`coalesce(${test}, false)`)
  switch (typed.is) {
    case 'constant':
      return typed.value === null ? typedNull(typed.type) : constant(typed.value)
    case 'field': {
      const column = around.column(typed.path, typed.field)
      return typed.type === 'number' ? sql`${column}::numeric` : column
    }
    case 'parameter': {
      const value = around.parameters[typed.name] ?? null
      if (typed.several) throw new Error(`The parameter ${typed.name} holds several values.`)
      return value === null ? typedNull(typed.type) : constant(value as Value)
    }
    case 'today':
      return constant(around.today)
    case 'negative':
      return sql`(- ${of(typed.value)})`
    case 'not':
      return sql`(not coalesce(${formulaSql(typed.value, around)}, false))`
    case 'in':
      return sql`(${sql.join(
        typed.list.map(item =>
          item.is === 'parameter' && item.several
            ? anySql(
                of(typed.value),
                ((around.parameters[item.name] ?? []) as readonly string[]).map(text => valueFrom(text, item.type)),
                item.type,
                required,
              )
            : equalSql(typed.value, item, of, around, required),
        ),
        sql` or `,
      )})`
    case 'between': {
      const moment = momentOf(typed.value)
      if (moment) {
        const [from, to] = [of(typed.low), of(typed.high)]
        return settled(sql`(${of(moment)} >= ${from} and ${of(moment)} < (${to} + 1))`)
      }
      const [value, low, high] = [ordered(typed.value, of), ordered(typed.low, of), ordered(typed.high, of)]
      return settled(sql`(${value} >= ${low} and ${value} <= ${high})`)
    }
    case 'binary':
      return binarySql(typed, around, required)
    case 'if':
      return sql`(case ${sql.join(
        typed.cases.map(each => sql`when ${of(each.test)} then ${of(each.result)}`),
        sql` `,
      )} else ${of(typed.otherwise)} end)`
    case 'ifEmpty':
      return sql`coalesce(${of(typed.value)}, ${of(typed.otherwise)})`
    case 'call':
      return callable[typed.name]!.sql!(...typed.arguments.map(of))
    case 'period':
      return periodSql(typed, typed.arguments.map(of), around)
    case 'has': {
      if (!around.has) throw new Error('A level below cannot be asked here.')
      return around.has(typed)
    }
    case 'total':
      return totalSql(typed, around)
    default:
      throw new Error(`A ${typed.is} has no SQL.`)
  }
}

/** A list of values as one bound array (PostgreSQL manual, section 9.24.3); what is no value of the type finds nothing. */
function anySql(value: SQL, values: readonly Value[], type: Typed['type'], required: boolean): SQL {
  const texts = values.filter(each => each !== null).map(each => (typeof each === 'boolean' ? each : plainText(each, dayText)))
  const test = sql`(${value} = any(${arrayOf(texts, type === 'empty' ? 'text' : sqlTypes[type])}))`
  return required ? test : sql`coalesce(${test}, false)`
}

/** A total over the records of a group. A sum of nothing is zero, as everywhere (rule 14). */
function totalSql(node: Typed & { is: 'total' }, around: SqlSurroundings): SQL {
  const value = node.value && formulaSql(node.value, around)
  const filter = node.where ? sql` filter (where ${formulaSql(node.where, around)})` : sql``
  switch (node.name) {
    case 'sum':
      return sql`coalesce(sum(${value!})${filter}, 0)`
    case 'count':
      return sql`(count(${value ?? sql`*`})${filter})::numeric`
    case 'distinct':
      return sql`(count(distinct ${value!})${filter})::numeric`
    case 'average':
      return divisionSql(sql`sum(${value!})${filter}`, sql`(count(${value!})${filter})::numeric`)
    case 'min':
    case 'max':
      return node.type === 'boolean'
        ? sql`(${sql.raw(node.name)}((${value!})::int)${filter} = 1)`
        : sql`${sql.raw(node.name)}(${node.type === 'text' ? sorted(value!) : value!})${filter}`
    default:
      throw new Error(`${node.name} of a group has no SQL.`)
  }
}

/** Functions of the fiscal calendar: worked out here where everything is known, else looked up in its periods. */
function periodSql(node: Typed & { is: 'period' }, parts: SQL[], around: SqlSurroundings): SQL {
  const known = node.arguments.map(part =>
    part.is === 'constant'
      ? part.value
      : part.is === 'parameter'
        ? ((around.parameters[part.name] as Value) ?? null)
        : part.is === 'today'
          ? around.today
          : undefined,
  )
  if (known.every(value => value !== undefined)) {
    const value = known.includes(null) ? null : periodValue(node.name, known as Value[], around.calendar)
    return value === null ? typedNull(node.type) : constant(value)
  }
  const { calendar } = around
  const periods = calendar?.periods ?? []
  const column = (of: (period: FiscalPeriod) => unknown, type: 'text' | 'date' | 'int' | 'boolean') => arrayOf(periods.map(of), type)
  const list = sql`unnest(${column(period => period.code, 'text')}, ${column(period => dayText(period.start), 'date')},
    ${column(period => dayText(period.end), 'date')}, ${column(period => ordinaryPlace(calendar, period.code), 'int')},
    ${column(period => period.adjustment, 'boolean')},
    ${column(period => dayText(periodValue('yearStart', [period.code], calendar) as Day), 'date')}) as p(code, first, last, place,
    adjustment, year_first)`
  switch (node.name) {
    case 'period':
      return sql`(select p.code from ${list} where not p.adjustment and ${parts[0]} between p.first and p.last limit 1)`
    case 'periodStart':
      return sql`(select p.first from ${list} where p.code = ${parts[0]} limit 1)`
    case 'periodEnd':
      return sql`(select p.last from ${list} where p.code = ${parts[0]} limit 1)`
    case 'yearStart':
      return sql`(select p.year_first from ${list} where p.code = ${parts[0]} limit 1)`
    default:
      return sql`(with p as (select * from ${list}) select q.code from p join p as q on not q.adjustment and q.place = p.place +
        round(${parts[1]})::int where p.code = ${parts[0]} limit 1)`
  }
}

/** The moment whose day a formula asks for. */
const momentOf = (typed: Typed): Typed | undefined => (typed.is === 'call' && typed.name === dayOfMoment ? typed.arguments[0] : undefined)

/** The day of a moment compared with a date, as bounds of the moment itself: an index over it can serve. */
const dayBounds = {
  '<': (moment: SQL, day: SQL) => sql`${moment} < ${day}`,
  '<=': (moment: SQL, day: SQL) => sql`${moment} < (${day} + 1)`,
  '>': (moment: SQL, day: SQL) => sql`${moment} >= (${day} + 1)`,
  '>=': (moment: SQL, day: SQL) => sql`${moment} >= ${day}`,
}

function binarySql(typed: Typed & { is: 'binary' }, around: SqlSurroundings, required: boolean): SQL {
  const of = (node: Typed) => formulaSql(node, around)
  const settled = (test: SQL) => (required ? test : sql`coalesce(${test}, false)`)
  const { left, right } = typed
  const moment = momentOf(left)
  if (moment && right.type === 'date' && Object.hasOwn(dayBounds, typed.operator))
    return settled(sql`(${dayBounds[typed.operator as keyof typeof dayBounds](of(moment), of(right))})`)
  switch (typed.operator) {
    case 'and':
      return settled(sql`(${formulaSql(left, around, required)} and ${formulaSql(right, around, required)})`)
    case 'or':
      return settled(sql`(${formulaSql(left, around, required)} or ${formulaSql(right, around, required)})`)
    case '=':
      return equalSql(left, right, of, around, required)
    case '!=':
      return differentSql(left, right, of, around)
    case '<':
      return settled(sql`(${ordered(left, of)} < ${ordered(right, of)})`)
    case '<=':
      return settled(sql`(${ordered(left, of)} <= ${ordered(right, of)})`)
    case '>':
      return settled(sql`(${ordered(left, of)} > ${ordered(right, of)})`)
    case '>=':
      return settled(sql`(${ordered(left, of)} >= ${ordered(right, of)})`)
    case '&':
      return sql`(${textSql(left, of)} || ${textSql(right, of)})`
    case '+':
      return sql`(${of(left)} + ${of(right)})`
    case '-':
      return sql`(${of(left)} - ${of(right)})`
    case '*':
      return sql`(${of(left)} * ${of(right)})`
    case '/':
      return divisionSql(of(left), of(right), weightOf(left) * 2 + weightOf(right) * 5 <= mostRepeated && ![left, right].some(divides))
  }
}

function constant(value: Value): SQL {
  if (value === null) return sql`null`
  if (typeof value === 'object') return sql`${decimalText(value)}::numeric`
  if (typeof value === 'number') return sql`${dayText(value)}::date`
  if (typeof value === 'bigint') return sql`${momentText(value)}::timestamp`
  if (typeof value === 'boolean') return value ? sql`true` : sql`false`
  return sql`${value}::text`
}

function typedNull(type: Typed['type']): SQL {
  switch (type) {
    case 'number':
      return sql`null::numeric`
    case 'date':
      return sql`null::date`
    case 'moment':
      return sql`null::timestamp`
    case 'boolean':
      return sql`null::boolean`
    default:
      return sql`null::text`
  }
}

function isKnown(node: Typed, around: SqlSurroundings): boolean {
  return (node.is === 'constant' && node.value !== null) || (node.is === 'parameter' && (around.parameters[node.name] ?? null) !== null)
}

function equalSql(left: Typed, right: Typed, of: (node: Typed) => SQL, around: SqlSurroundings, required: boolean): SQL {
  const asked = besideEmpty(left, right, around)
  if (asked) return sql`(${of(asked)} is null)`
  if (required && (isKnown(left, around) || isKnown(right, around))) return sql`(${of(left)} = ${of(right)})`
  return sql`(${of(left)} is not distinct from ${of(right)})`
}

function differentSql(left: Typed, right: Typed, of: (node: Typed) => SQL, around: SqlSurroundings): SQL {
  const asked = besideEmpty(left, right, around)
  return asked ? sql`(${of(asked)} is not null)` : sql`(${of(left)} is distinct from ${of(right)})`
}

/** Of a comparison with what is known to be empty, the other side: databases know how many are, which they do not of “distinct”. */
function besideEmpty(left: Typed, right: Typed, around: SqlSurroundings): Typed | undefined {
  const isEmpty = (node: Typed) =>
    (node.is === 'constant' && node.value === null) ||
    (node.is === 'parameter' && !node.several && (around.parameters[node.name] ?? null) === null)
  return isEmpty(right) ? left : isEmpty(left) ? right : undefined
}

/** A value to be compared for order: text by the Unicode root collation. */
function ordered(node: Typed, of: (node: Typed) => SQL): SQL {
  return node.type === 'text' ? sorted(of(node)) : of(node)
}

/** A value as text, an empty one as no text, as `&` writes it. */
function textSql(node: Typed, of: (node: Typed) => SQL): SQL {
  const value = of(node)
  switch (node.type) {
    case 'number':
      return sql`coalesce(trim_scale(${value})::text, '')`
    case 'date':
      return sql`coalesce(to_char(${value}, 'YYYY-MM-DD'), '')`
    case 'moment':
      return sql`coalesce((${value})::timestamp::text, '')`
    case 'boolean':
      return sql`(case when ${value} then 'yes' when not ${value} then 'no' else '' end)`
    default:
      return sql`coalesce(${value}, '')`
  }
}

/** Parts that are written out several times rather than put into a query of their own, which costs more than to work them out again. */
const mostRepeated = 60
const divides = (typed: Typed): boolean =>
  (typed.is === 'binary' && typed.operator === '/') ||
  (typed.is === 'field' && !!typed.field.formula && divides(typed.field.formula)) ||
  partsOf(typed).some(divides)

/**
 * Exact quotient to twelve digits, half away from zero; empty for a zero divisor. Both sides stand in it several times: `plain` ones are
 * written out.
 */
function divisionSql(left: SQL, right: SQL, plain = false): SQL {
  const raise = sql.raw(`1${'0'.repeat(divisionScale)}`)
  const quotient = (a: SQL, b: SQL) =>
    sql`case when ${b} = 0 then null else trim_scale(sign(${a}) * sign(${b}) * div(2 * abs(${a}) * ${
      raise
    } + abs(${b}), 2 * abs(${b})) / ${raise}::numeric(40,${sql.raw(String(divisionScale))})) end`
  return plain
    ? sql`(${quotient(left, right)})`
    : sql`(select ${quotient(sql`q.a`, sql`q.b`)} from (select ${left} as a, ${right} as b) as q)`
}
