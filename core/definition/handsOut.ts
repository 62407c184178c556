import { array, mixed, number, object } from 'yup'
import { formula, identifier, plain } from './checks'
import type { ValueType } from '../value/value'

/** A total of a whole report under a name: a report in which it is nested can print it and add it up. */
export interface HandedTotal {
  name: string
  /** a formula over all records of the report, such as sum(total) */
  formula: string
  /** a number or date pattern */
  format?: string
}

export type HandedType = Exclude<ValueType, 'moment'>
export const handedTypes = mixed<HandedType>().oneOf(['number', 'text', 'date', 'boolean']).required()
export const decimalsOf = number().strict().integer().min(0).max(100)

export const handsOutSchema = array(object({ name: identifier, formula, format: plain }).noUnknown())
