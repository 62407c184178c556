import type { Decimal } from './decimal'
import type { Day } from './date'
import type { Moment } from './moment'

/** What a formula or field can hold: an exact decimal, text, a date (days since 1970), a moment (date and time), yes/no, or empty. */
export type Value = Decimal | string | Day | Moment | boolean | null

/** What a parameter holds: one value, or several texts. */
export type Answer = Value | readonly string[]

export type ValueType = 'number' | 'text' | 'date' | 'moment' | 'boolean'
