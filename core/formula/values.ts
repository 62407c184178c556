import { dayText } from '../value/date'
import { add, compareDecimals, type Decimal, subtract, multiply, divide, zero } from '../value/decimal'
import { plainText } from '../value/plain'
import { compareText } from '../value/text'
import type { Value } from '../value/value'
import type { Evaluate } from './standing'
import type { Typed } from './typed'

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
  if (typeof a === 'bigint' && typeof b === 'bigint') return a < b ? -1 : a > b ? 1 : 0
  return Number(a) - Number(b)
}

export function binary(node: Typed & { is: 'binary' }, left: Evaluate, right: Evaluate): Evaluate {
  const arithmetic =
    (work: (a: Decimal, b: Decimal) => Value): Evaluate =>
    at => {
      const a = left(at) as Decimal | null
      if (a === null) return null
      const b = right(at) as Decimal | null
      return b === null ? null : work(a, b)
    }
  const compared =
    (test: (difference: number) => boolean): Evaluate =>
    at => {
      const [a, b] = [left(at), right(at)]
      return a !== null && b !== null && test(order(a, b))
    }
  switch (node.operator) {
    case '+':
      return arithmetic(add)
    case '-':
      return arithmetic(subtract)
    case '*':
      return arithmetic(multiply)
    case '/':
      return arithmetic((a, b) => divide(a, b) ?? null)
    case '&':
      return at => plainText(left(at), dayText) + plainText(right(at), dayText)
    case '=':
      return at => equal(left(at), right(at))
    case '!=':
      return at => !equal(left(at), right(at))
    case '<':
      return compared(difference => difference < 0)
    case '<=':
      return compared(difference => difference <= 0)
    case '>':
      return compared(difference => difference > 0)
    case '>=':
      return compared(difference => difference >= 0)
    case 'and':
      return at => left(at) === true && right(at) === true
    case 'or':
      return at => left(at) === true || right(at) === true
  }
}

export function exactSum(values: Iterable<Value>): Decimal {
  let sum = zero
  for (const value of values) sum = add(sum, value as Decimal)
  return sum
}

export function best(values: Iterable<Value>, direction: 1 | -1): Value {
  let found: Value = null
  for (const value of values) if (found === null || order(value, found) * direction > 0) found = value
  return found
}

export function mostFrequent(values: Iterable<Value>): Value {
  const counts = new Map<string, { value: Value; count: number }>()
  for (const value of values) {
    const key = plainText(value, dayText)
    const found = counts.get(key)
    if (found) found.count++
    else counts.set(key, { value, count: 1 })
  }
  let best: { value: Value; count: number } | undefined
  for (const each of counts.values())
    if (!best || each.count > best.count || (each.count === best.count && order(each.value, best.value) < 0)) best = each
  return best?.value ?? null
}
