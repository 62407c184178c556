import { totalledCurrency } from './currency'
import type { FieldInfo, Typed } from './typed'

/** All fields a typed formula reads, as level and path; of a total of amounts their currencies too, since it is kept apart by them. */
export function fieldsUsed(
  typed: Typed,
  into: { level: number; path: string; field: FieldInfo }[] = [],
): { level: number; path: string; field: FieldInfo }[] {
  if (typed.is === 'field') into.push({ level: typed.level, path: typed.path, field: typed.field })
  for (const part of partsOf(typed)) fieldsUsed(part, into)
  const currency = totalledCurrency(typed)
  if (currency) fieldsUsed(currency, into)
  return into
}

const weights = new WeakMap<Typed, number>()

/** How many parts a formula has with all calculated fields in it written out: what a statement or a total of it has to go through. */
export function weightOf(typed: Typed): number {
  let found = weights.get(typed)
  if (found === undefined) {
    const inner = typed.is === 'field' && typed.field.formula ? weightOf(typed.field.formula) : 0
    found = 1 + inner + partsOf(typed).reduce((sum, part) => sum + weightOf(part), 0)
    weights.set(typed, found)
  }
  return found
}

/** Parts that a calculated field may come to. */
export const mostWeight = 5000

/** The formulas inside a formula. */
export function partsOf(typed: Typed): Typed[] {
  switch (typed.is) {
    case 'binary':
      return [typed.left, typed.right]
    case 'negative':
    case 'not':
    case 'carried':
    case 'rank':
      return [typed.value]
    case 'in':
      return [typed.value, ...typed.list]
    case 'between':
      return [typed.value, typed.low, typed.high]
    case 'call':
    case 'period':
      return typed.arguments
    case 'has':
      return typed.where ? [typed.where] : []
    case 'running':
      return [typed.value, typed.where].filter(part => part !== undefined)
    case 'if':
      return [...typed.cases.flatMap(each => [each.test, each.result]), typed.otherwise]
    case 'ifEmpty':
      return [typed.value, typed.otherwise]
    case 'total':
      return [typed.value, typed.where].filter(part => part !== undefined)
    default:
      return []
  }
}

/** A formula with some of its parts changed: those for which `change` gives something. */
export function mapParts(typed: Typed, change: (part: Typed) => Typed | undefined): Typed {
  const changed = change(typed)
  if (changed) return changed
  const of = (part: Typed) => mapParts(part, change)
  switch (typed.is) {
    case 'binary':
      return { ...typed, left: of(typed.left), right: of(typed.right) }
    case 'negative':
    case 'not':
    case 'carried':
    case 'rank':
      return { ...typed, value: of(typed.value) }
    case 'in':
      return { ...typed, value: of(typed.value), list: typed.list.map(of) }
    case 'between':
      return { ...typed, value: of(typed.value), low: of(typed.low), high: of(typed.high) }
    case 'call':
    case 'period':
      return { ...typed, arguments: typed.arguments.map(of) }
    case 'if':
      return {
        ...typed,
        cases: typed.cases.map(each => ({ test: of(each.test), result: of(each.result) })),
        otherwise: of(typed.otherwise),
      }
    case 'ifEmpty':
      return { ...typed, value: of(typed.value), otherwise: of(typed.otherwise) }
    default:
      return typed
  }
}

/**
 * A formula over totals of amounts, cut by currency (rule 13 of the semantics): what tells which currencies there are, and the same formula
 * over the amounts of one of them. Nothing where no amount in it has a currency.
 */
export function byCurrency(typed: Typed): { lists: Typed[]; of: (currency: string) => Typed } | undefined {
  const lists: Typed[] = []
  const gather = (part: Typed): void => {
    const code = totalledCurrency(part)
    if (code && (part.is === 'total' || part.is === 'running' || part.is === 'carried')) {
      // records without an amount bring no currency in
      const nothing: Typed = { is: 'constant', type: 'text', value: null }
      const amount = part.value!
      const test: Typed = { is: 'binary', type: 'boolean', operator: '!=', left: amount, right: { ...nothing, type: amount.type } }
      const value: Typed = { is: 'if', type: 'text', cases: [{ test, result: code }], otherwise: nothing }
      lists.push(
        part.is === 'total'
          ? { is: 'total', type: 'text', name: 'list', level: part.level, value, where: part.where, over: part.over }
          : { ...part, type: 'text', value, list: true },
      )
    }
    if (part.is === 'total' || part.is === 'running') return
    partsOf(part).forEach(gather)
  }
  gather(typed)
  if (!lists.length) return undefined
  const within = (where: Typed | undefined, code: Typed, currency: string): Typed => {
    const same: Typed = {
      is: 'binary',
      type: 'boolean',
      operator: '=',
      left: code,
      right: { is: 'constant', type: 'text', value: currency },
    }
    return where ? { is: 'binary', type: 'boolean', operator: 'and', left: where, right: same } : same
  }
  const of = (currency: string): Typed =>
    mapParts(typed, part => {
      const code = totalledCurrency(part)
      if (!code) return part.is === 'total' || part.is === 'running' ? part : undefined
      if (part.is === 'total' || part.is === 'running') return { ...part, where: within(part.where, code, currency) }
      if (part.is !== 'carried') return undefined
      const value: Typed = {
        is: 'if',
        type: 'number',
        cases: [{ test: within(undefined, code, currency), result: part.value }],
        otherwise: { is: 'constant', type: 'number', value: null },
      }
      return { ...part, value }
    })
  return { lists, of }
}

/** Does any part of the formula satisfy the test? */
export function somePart(typed: Typed, test: (part: Typed) => boolean): boolean {
  return test(typed) || partsOf(typed).some(part => somePart(part, test))
}

/** Fields of single records in a formula: those that no total is taken of. */
export function outsideTotals(typed: Typed): (Typed & { is: 'field' })[] {
  if (typed.is === 'field') return [typed]
  if (typed.is === 'total' || typed.is === 'running' || typed.is === 'rank' || typed.is === 'has' || typed.is === 'carried') return []
  return partsOf(typed).flatMap(outsideTotals)
}
