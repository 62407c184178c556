import type { FieldInfo, Typed } from './typed'

/**
 * The currency that an amount is in, as a formula over its record: that of the field that it is, or is worked out from. Nothing where it
 * has none, or has been converted: multiplied or divided by a rate (rule 13 of the semantics).
 */
export function currencyOf(typed: Typed): Typed | undefined {
  switch (typed.is) {
    case 'field':
      return typed.field.currency === undefined ? typed.field.formula && currencyOf(typed.field.formula) : codeOf(typed.field)
    case 'negative':
    case 'running':
    case 'carried':
      return currencyOf(typed.value)
    case 'binary':
      switch (typed.operator) {
        case '+':
        case '-':
          return currencyOf(typed.left) ?? currencyOf(typed.right)
        case '*':
          return isRate(typed.left) || isRate(typed.right) ? undefined : (currencyOf(typed.left) ?? currencyOf(typed.right))
        case '/':
          return isRate(typed.right) || currencyOf(typed.right) ? undefined : currencyOf(typed.left)
        default:
          return undefined
      }
    case 'if':
      return typed.cases.map(each => currencyOf(each.result)).find(Boolean) ?? currencyOf(typed.otherwise)
    case 'ifEmpty':
      return currencyOf(typed.value) ?? currencyOf(typed.otherwise)
    case 'call':
      return ['round', 'abs', 'floor', 'ceiling'].includes(typed.name) ? currencyOf(typed.arguments[0]!) : undefined
    default:
      return undefined
  }
}

const isRate = (typed: Typed): boolean => typed.is === 'field' && /(^|_)(rate|exchange)/.test(typed.field.column.name)

/** Stands for a currency code that is empty: amounts without one are kept apart too. */
export const noCurrency = '\u0001'

/** The field that holds an amount's currency code. */
function codeOf(field: FieldInfo): Typed {
  const code: Typed = {
    is: 'field',
    type: 'text',
    level: field.level,
    path: field.currency!,
    field: { ...field, path: field.currency!, type: 'text', currency: undefined, formula: undefined, ratio: undefined },
  }
  return { is: 'ifEmpty', type: 'text', value: code, otherwise: { is: 'constant', type: 'text', value: noCurrency } }
}

/** Totals that bring amounts of several records together; the first, last and most frequent are those of a single one. */
const adding = new Set(['sum', 'average', 'min', 'max', 'median', 'largest', 'smallest'])

/** The currency of what a total adds up, where it has one. */
export function totalledCurrency(node: Typed): Typed | undefined {
  if (node.is === 'running' || node.is === 'carried') return currencyOf(node.value)
  return node.is === 'total' && node.value && adding.has(node.name) ? currencyOf(node.value) : undefined
}
