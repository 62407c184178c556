import { isWithin } from './lineage'
import { fieldsUsed, mapParts, somePart } from './parts'
import type { FieldInfo, LevelInfo, Over, Typed } from './typed'

/**
 * Rule 11 of the semantics: a calculated field whose outermost operation divides by a measure is a ratio, and a total of it is worked out
 * from the totals of what is divided and of what it is divided by. Every other field is added up record by record.
 */

/** Which of the two holds for a calculated field; nothing where its formula says so. */
export type TotalledAs = 'ratio' | 'records'

/** Is it an amount or a quantity, which records share among them: not a price, a rate, a factor, or a quotient of amounts? */
export function isAmount(typed: Typed): boolean {
  switch (typed.is) {
    case 'field':
      return isAmountField(typed.field)
    case 'total':
      return typed.name === 'count' || typed.name === 'distinct' || (!!typed.value && isAmount(typed.value))
    case 'running':
    case 'carried':
    case 'negative':
      return isAmount(typed.value)
    case 'binary':
      return typed.operator === '/' ? isAmount(typed.left) && !isAmount(typed.right) : isAmount(typed.left) || isAmount(typed.right)
    case 'if':
      return typed.cases.some(each => isAmount(each.result)) || isAmount(typed.otherwise)
    case 'ifEmpty':
      return isAmount(typed.value) || isAmount(typed.otherwise)
    case 'call':
      return ['round', 'abs', 'floor', 'ceiling'].includes(typed.name) && isAmount(typed.arguments[0]!)
    default:
      return false
  }
}

function isAmountField(field: FieldInfo): boolean {
  if (field.type !== 'number' || field.ratio) return false
  if (field.formula) return isAmount(field.formula)
  if (field.total) {
    const { definition, value } = field.total
    return definition.total === 'count' || (!!value && isAmount(value))
  }
  return field.role === 'measure' && !field.format?.includes('%')
}

const isFixed = (typed: Typed) => !somePart(typed, part => !['constant', 'parameter', 'binary', 'negative', 'call'].includes(part.is))

/**
 * A formula as it is worked out for many records, where it is a ratio: `totalOf` stands for the total of a part. `forced` takes any
 * divisor that differs from record to record. Nothing where the formula is no ratio.
 */
export function ratioOf(typed: Typed, totalOf: (part: Typed) => Typed, forced = false): Typed | undefined {
  const inner = (part: Typed) => ratioOf(part, totalOf, forced)
  switch (typed.is) {
    case 'field':
      return typed.field.ratio && ratioOf(typed.field.ratio.of, totalOf, typed.field.ratio.forced)
    case 'negative': {
      const value = inner(typed.value)
      return value && { ...typed, value }
    }
    case 'binary': {
      const { left, right, operator } = typed
      if (operator === '/') {
        if (isAmount(right) || (forced && fieldsUsed(right).length)) return { ...typed, left: totalOf(left), right: totalOf(right) }
        const quotient = isFixed(right) ? inner(left) : undefined
        return quotient && { ...typed, left: quotient }
      }
      if (operator !== '*') return undefined
      const [first, second] = [isFixed(right) ? inner(left) : undefined, isFixed(left) ? inner(right) : undefined]
      return first ? { ...typed, left: first } : second && { ...typed, right: second }
    }
    case 'call': {
      const [value, ...digits] = typed.arguments
      const found = typed.name === 'round' && digits.every(isFixed) ? inner(value!) : undefined
      return found && { ...typed, arguments: [found, ...digits] }
    }
    case 'ifEmpty': {
      const parts = branches([typed.value, typed.otherwise], inner)
      return parts && { ...typed, value: parts[0]!, otherwise: parts[1]! }
    }
    case 'if':
      return choice(typed, totalOf, inner)
    default:
      return undefined
  }
}

/** Branches of a choice: each a ratio or fixed, at least one a ratio. */
function branches(parts: readonly Typed[], inner: (part: Typed) => Typed | undefined): Typed[] | undefined {
  const found = parts.map(part => (isFixed(part) ? part : inner(part)))
  return found.every(part => part !== undefined) && found.some((part, at) => part !== parts[at]) ? (found as Typed[]) : undefined
}

/**
 * A choice between ratios. Tests of numbers are tests of their totals. A test that only a single record answers (its kind, its date)
 * chooses the records that both totals stand on; its other branches are ratios too, or give nothing.
 */
function choice(
  typed: Typed & { is: 'if' },
  totalOf: (part: Typed) => Typed,
  inner: (part: Typed) => Typed | undefined,
): Typed | undefined {
  const results = [...typed.cases.map(each => each.result), typed.otherwise]
  const tests = typed.cases.map(each => testOfTotals(each.test, part => inner(part) ?? totalOf(part)))
  if (tests.every(test => test !== undefined)) {
    const parts = branches(results, inner)
    return parts && { ...typed, cases: typed.cases.map((_, at) => ({ test: tests[at]!, result: parts[at]! })), otherwise: parts.at(-1)! }
  }
  const nothing: Typed = { is: 'constant', type: 'number', value: null }
  const zero = (part: Typed) => part.is === 'constant' && (part.value === null || isZeroValue(part))
  const divided = results.map(part => (zero(part) ? { left: nothing, right: nothing } : plainQuotient(part)))
  if (!divided.every(each => each !== undefined) || !divided.some(each => each.left !== nothing)) return undefined
  const chosen = (side: 'left' | 'right'): Typed => ({
    ...typed,
    cases: typed.cases.map((each, at) => ({ test: each.test, result: divided[at]![side] })),
    otherwise: divided.at(-1)![side],
  })
  return { is: 'binary', type: 'number', operator: '/', left: totalOf(chosen('left')), right: totalOf(chosen('right')) }

  function plainQuotient(part: Typed): { left: Typed; right: Typed } | undefined {
    const formula = part.is === 'field' && part.field.ratio ? part.field.ratio.of : part
    if (formula.is !== 'binary' || formula.operator !== '/') return undefined
    return inner(formula) && isAmount(formula.right) ? { left: formula.left, right: formula.right } : undefined
  }
}

const isZeroValue = (part: Typed & { is: 'constant' }) =>
  part.value !== null && typeof part.value === 'object' && (part.value.units === 0 || part.value.units === 0n)

/** A test with the totals of its numbers in their places; nothing where it asks a record for more than numbers. */
function testOfTotals(test: Typed, totalOf: (part: Typed) => Typed): Typed | undefined {
  const total = mapParts(test, part => (part.type === 'number' && !isFixed(part) && part.is !== 'total' ? totalOf(part) : undefined))
  return somePart(total, part => part.is === 'field' && part.type !== 'number') ||
    somePart(test, part => part.is === 'has' || (part.is === 'field' && part.type !== 'number'))
    ? undefined
    : total
}

/** Is a formula a ratio by itself (rule 11 of the semantics)? `forced`: could it be told to be one? */
export function isRatio(typed: Typed, forced = false): boolean {
  return ratioOf(typed, part => part, forced) !== undefined
}

/** How the totals of a field are worked out, and whether its author can say otherwise. */
export function totalledAs(field: FieldInfo): { as: TotalledAs; other: boolean } {
  if (field.ratio) return { as: 'ratio', other: true }
  return { as: 'records', other: !!field.formula && isRatio(field.formula, true) }
}

/**
 * The total of a part of a ratio, each of its records counted once: of the level of its own fields, or, where a condition speaks of the
 * records of the ratio, of those of its records that satisfy it.
 */
export function partTotal(levels: readonly LevelInfo[], standing: number, more: { where?: Typed; over?: Over }): (part: Typed) => Typed {
  return part => {
    const level = deepest(levels, part, standing)
    const where = more.where
    const within = !where || isWithin(levels, level, deepest(levels, where, standing, true))
    const value = part.type === 'empty' ? { ...part, type: 'number' as const } : part
    return within || level === standing
      ? { is: 'total', type: 'number', name: 'sum', value, level, ...more }
      : { is: 'total', type: 'number', name: 'sum', value, level: standing, once: level, ...more }
  }
}

/** The deepest level among the fields of a formula; that where it stands, where there is none or it asks for more than fields. */
function deepest(levels: readonly LevelInfo[], typed: Typed, standing: number, root = false): number {
  if (somePart(typed, part => part.is === 'total' || part.is === 'has' || part.is === 'running')) return standing
  const used = fieldsUsed(typed)
  if (!used.length) return root ? 0 : standing
  return used.reduce((level, field) => (level < 0 || isWithin(levels, field.level, level) ? field.level : level), -1)
}
