import type { Value } from './value'
import { decimalText, trim } from './decimal'
import { momentText } from './moment'

/** A value as text, as `&` and `{{ }}` without a pattern write it. */
export function plainText(value: Value, dayText: (date: number) => string): string {
  if (value === null) return ''
  if (typeof value === 'object') return decimalText(trim(value))
  if (typeof value === 'number') return dayText(value)
  if (typeof value === 'bigint') return momentText(value)
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  return value
}
