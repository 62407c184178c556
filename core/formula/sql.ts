import { sql, type SQL } from 'drizzle-orm'
import type { Value } from '../dataset/records'
import { dayText, type Day } from '../value/date'
import { decimalText, divisionScale } from '../value/decimal'
import type { Typed } from './check'
import { scalarFunctions } from './functions'

/** What the SQL of a formula is made from. */
export interface SqlSurroundings {
  /** the column that a field is read from */
  column: (path: string) => SQL
  parameters: Readonly<Record<string, Value>>
  today: Day
}

/**
 * The same formula as SQL, with all values bound. Tests come out as true or false, never null, as rule 14 of the semantics wants;
 * a test that must hold (`required`) may leave null for false, so that an index can still serve it.
 */
export function formulaSql(typed: Typed, around: SqlSurroundings, required = false): SQL {
  const of = (node: Typed) => formulaSql(node, around)
  const settled = (test: SQL) => required ? test : sql`coalesce(${test}, false)`
  switch (typed.is) {
    case 'constant': return typed.value === null ? typedNull(typed.type) : constant(typed.value)
    case 'field': {
      const column = around.column(typed.path)
      return typed.type === 'number' ? sql`${column}::numeric` : column
    }
    case 'parameter': {
      const value = around.parameters[typed.name] ?? null
      return value === null ? typedNull(typed.type) : constant(value)
    }
    case 'today': return constant(around.today)
    case 'negative': return sql`(- ${of(typed.value)})`
    case 'not': return sql`(not coalesce(${formulaSql(typed.value, around)}, false))`
    case 'in': return sql`(${sql.join(typed.list.map(item => equalSql(typed.value, item, of, around, required)), sql` or `)})`
    case 'between': {
      const [value, low, high] = [ordered(typed.value, of), ordered(typed.low, of), ordered(typed.high, of)]
      return settled(sql`(${value} >= ${low} and ${value} <= ${high})`)
    }
    case 'binary': return binarySql(typed, around, required)
    case 'if': return sql`(case ${sql.join(typed.cases.map(each => sql`when ${of(each.test)} then ${of(each.result)}`), sql` `)} else ${of(typed.otherwise)} end)`
    case 'ifEmpty': return sql`coalesce(${of(typed.value)}, ${of(typed.otherwise)})`
    case 'call': return scalarFunctions[typed.name]!.sql(...typed.arguments.map(of))
    default: throw new Error(`A ${typed.is} has no SQL.`)
  }
}

function binarySql(typed: Typed & { is: 'binary' }, around: SqlSurroundings, required: boolean): SQL {
  const of = (node: Typed) => formulaSql(node, around)
  const settled = (test: SQL) => required ? test : sql`coalesce(${test}, false)`
  const { left, right } = typed
  switch (typed.operator) {
    case 'and': return settled(sql`(${formulaSql(left, around, required)} and ${formulaSql(right, around, required)})`)
    case 'or': return settled(sql`(${formulaSql(left, around, required)} or ${formulaSql(right, around, required)})`)
    case '=': return equalSql(left, right, of, around, required)
    case '!=': return sql`(${of(left)} is distinct from ${of(right)})`
    case '<': return settled(sql`(${ordered(left, of)} < ${ordered(right, of)})`)
    case '<=': return settled(sql`(${ordered(left, of)} <= ${ordered(right, of)})`)
    case '>': return settled(sql`(${ordered(left, of)} > ${ordered(right, of)})`)
    case '>=': return settled(sql`(${ordered(left, of)} >= ${ordered(right, of)})`)
    case '&': return sql`(${textSql(left, of)} || ${textSql(right, of)})`
    case '+': return sql`(${of(left)} + ${of(right)})`
    case '-': return sql`(${of(left)} - ${of(right)})`
    case '*': return sql`(${of(left)} * ${of(right)})`
    case '/': return divisionSql(of(left), of(right))
  }
}

function constant(value: Value): SQL {
  if (value === null) return sql`null`
  if (typeof value === 'object') return sql`${decimalText(value)}::numeric`
  if (typeof value === 'number') return sql`${dayText(value)}::date`
  if (typeof value === 'boolean') return value ? sql`true` : sql`false`
  return sql`${value}::text`
}

function typedNull(type: Typed['type']): SQL {
  switch (type) {
    case 'number': return sql`null::numeric`
    case 'date': return sql`null::date`
    case 'boolean': return sql`null::boolean`
    default: return sql`null::text`
  }
}

function isKnown(node: Typed, around: SqlSurroundings): boolean {
  return (node.is === 'constant' && node.value !== null) || (node.is === 'parameter' && (around.parameters[node.name] ?? null) !== null)
}

function equalSql(left: Typed, right: Typed, of: (node: Typed) => SQL, around: SqlSurroundings, required: boolean): SQL {
  if (required && (isKnown(left, around) || isKnown(right, around))) return sql`(${of(left)} = ${of(right)})`
  return sql`(${of(left)} is not distinct from ${of(right)})`
}

/** A value to be compared for order: text by the Unicode root collation. */
function ordered(node: Typed, of: (node: Typed) => SQL): SQL {
  return node.type === 'text' ? sql`${of(node)} collate "unicode"` : of(node)
}

/** A value as text, an empty one as no text, as `&` writes it. */
function textSql(node: Typed, of: (node: Typed) => SQL): SQL {
  const value = of(node)
  switch (node.type) {
    case 'number': return sql`coalesce(trim_scale(${value})::text, '')`
    case 'date': return sql`coalesce(to_char(${value}, 'YYYY-MM-DD'), '')`
    case 'boolean': return sql`(case when ${value} then 'yes' when not ${value} then 'no' else '' end)`
    default: return sql`coalesce(${value}, '')`
  }
}

/** Exact quotient to twelve digits, half away from zero; empty for a zero divisor. */
function divisionSql(left: SQL, right: SQL): SQL {
  const raise = sql.raw(`1${'0'.repeat(divisionScale)}`)
  return sql`(select case when q.b = 0 then null else trim_scale(sign(q.a) * sign(q.b) * div(2 * abs(q.a) * ${raise} + abs(q.b), 2 * abs(q.b)) / ${raise}::numeric(40,${sql.raw(String(divisionScale))})) end from (select ${left} as a, ${right} as b) as q)`
}
