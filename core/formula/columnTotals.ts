import type { Column, NumberColumn } from '../value/columns'
import { add, decimal, divide } from '../value/decimal'
import type { Value } from '../value/value'
import type { Typed } from './typed'

/** Goes over some rows of a column. */
export type EachRow = (visit: (row: number) => void) => void

/** Numbers that are put into order, one total after the other. */
let scratch = new Float64Array(1024)

/** The numbers of some rows, those that are empty left out, from the lowest on; they stand there until the next are asked for. */
function sorted({ values }: NumberColumn, rows: EachRow): Float64Array {
  let count = 0
  rows(row => {
    const each = values[row]!
    if (each !== each) return
    if (count === scratch.length) {
      const larger = new Float64Array(count * 2)
      larger.set(scratch)
      scratch = larger
    }
    scratch[count++] = each
  })
  return scratch.subarray(0, count).sort()
}

/**
 * A total of a field that lies in a column as it is, worked out on the column, without making a value of each: the same figure. Nothing
 * where the total, or what the column holds, is not of that kind; an answer of undefined says that it has to be worked out value by value.
 */
export function columnTotal(node: Typed & { is: 'total' }, column: Column): ((rows: EachRow) => Value | undefined) | undefined {
  if (node.name === 'distinct' && (column.kind === 'text' || column.kind === 'date')) {
    const values: ArrayLike<string | number | null> = column.values
    return rows => {
      const seen = new Set<string | number | null>()
      rows(row => seen.add(values[row]!))
      // what is empty is no value: null of a text, NaN of a date
      seen.delete(null)
      seen.delete(NaN)
      return decimal(seen.size, 0)
    }
  }
  if (column.kind !== 'number' || column.wide) return undefined
  const { values, scale } = column
  const value = (units: number | undefined): Value => (units === undefined ? null : { units, scale })
  switch (node.name) {
    case 'sum':
      return rows => {
        let [units, safe] = [0, true]
        rows(row => {
          const each = values[row]!
          if (each === each) units += each
          // one step beyond the safe integers may have lost a digit
          if (units > Number.MAX_SAFE_INTEGER || units < -Number.MAX_SAFE_INTEGER) safe = false
        })
        return safe ? { units, scale } : undefined
      }
    case 'count':
      return rows => {
        let count = 0
        rows(row => {
          if (values[row] === values[row]) count++
        })
        return decimal(count, 0)
      }
    case 'distinct':
      return rows => {
        const seen = new Set<number>()
        rows(row => seen.add(values[row]!))
        seen.delete(NaN)
        return decimal(seen.size, 0)
      }
    case 'min':
    case 'max': {
      const lower = node.name === 'min'
      return rows => {
        let best: number | undefined
        rows(row => {
          const each = values[row]!
          if (each === each && (best === undefined || (lower ? each < best : each > best))) best = each
        })
        return value(best)
      }
    }
    case 'median':
      return rows => {
        const numbers = sorted(column, rows)
        const middle = numbers.length >> 1
        if (numbers.length % 2 || !numbers.length) return value(numbers[middle])
        const both = add({ units: numbers[middle - 1]!, scale }, { units: numbers[middle]!, scale })
        return divide(both, decimal(2, 0)) ?? null
      }
    case 'largest':
      return rows => value(sorted(column, rows).at(-node.count!))
    case 'smallest':
      return rows => value(sorted(column, rows)[node.count! - 1])
    default:
      return undefined
  }
}
