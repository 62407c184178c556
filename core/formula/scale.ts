import type { Typed } from './typed'

export const wholeFunctions = new Set(['length', 'floor', 'ceiling', 'daysBetween', 'year', 'quarter', 'month', 'bucket'])
/** Digits after the mark that a number can have at most, where its parts say so. */
export function scaleOf(typed: Typed): number | undefined {
  const most = (...parts: Typed[]) => {
    const scales = parts.filter(part => part.type !== 'empty' && !(part.is === 'constant' && part.value === null)).map(scaleOf)
    return scales.includes(undefined) ? undefined : Math.max(0, ...(scales as number[]))
  }
  switch (typed.is) {
    case 'constant':
      return typed.value !== null && typeof typed.value === 'object' ? typed.value.scale : undefined
    case 'field':
      return typed.field.scale
    case 'negative':
      return scaleOf(typed.value)
    case 'running':
      return scaleOf(typed.value)
    case 'ifEmpty':
      return most(typed.value, typed.otherwise)
    case 'if':
      return most(...typed.cases.map(each => each.result), typed.otherwise)
    case 'rank':
      return 0
    case 'total':
      return typed.name === 'count' || typed.name === 'distinct'
        ? 0
        : typed.name === 'average' || typed.name === 'median'
          ? undefined
          : typed.value && scaleOf(typed.value)
    case 'binary': {
      // a date less a date is a number of days
      if (typed.left.type === 'date') return 0
      if (typed.operator === '+' || typed.operator === '-') return most(typed.left, typed.right)
      const [left, right] = [scaleOf(typed.left), scaleOf(typed.right)]
      return typed.operator === '*' && left !== undefined && right !== undefined ? left + right : undefined
    }
    case 'call': {
      if (typed.name === 'round') {
        const digits = typed.arguments[1]
        return digits === undefined
          ? 0
          : digits.is === 'constant' &&
              digits.value !== null &&
              typeof digits.value === 'object' &&
              typeof digits.value.units === 'number' &&
              digits.value.scale === 0 &&
              digits.value.units >= 0
            ? digits.value.units
            : undefined
      }
      return typed.name === 'abs' ? scaleOf(typed.arguments[0]!) : wholeFunctions.has(typed.name) ? 0 : undefined
    }
    default:
      return undefined
  }
}
