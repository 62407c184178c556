import type { FieldInfo } from '../formula/typed'
import { dayText } from '../value/date'
import { dateFormat, momentFormat } from '../value/dateFormat'
import type { Decimal } from '../value/decimal'
import type { Moment } from '../value/moment'
import { numberFormat } from '../value/numberFormat'
import { plainText } from '../value/plain'
import type { Value } from '../value/value'
import { defaultPattern } from './text'

/** A field's value as rows show it: in the field's format, in the report's language. */
export function fieldText(field: FieldInfo, value: Value, language: string): string {
  if (value === null) return ''
  const pattern = field.format ?? defaultPattern(field.type, field)
  try {
    if (pattern && field.type === 'number') return numberFormat(pattern, language)(value as Decimal)
    if (pattern && field.type === 'moment') return momentFormat(pattern, language)(value as Moment)
    if (pattern && field.type === 'date') return dateFormat(pattern, language)(value as number)
  } catch {
    // an unreadable pattern is told where it is written; the value still shows
  }
  return plainText(value, dayText)
}
