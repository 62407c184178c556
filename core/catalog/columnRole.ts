/**
 * What a column is for. `number` names a document, `code` and `name` a record; `rate` is a price, a rate, a factor, days: told per one of
 * something and never added up, as little as `percent`; `position` is the place of a line; `period` a year or month as a number; `flag`
 * a yes or no; `system` what the database writes for itself.
 */
export type ColumnRole =
  | 'key'
  | 'number'
  | 'code'
  | 'name'
  | 'date'
  | 'moment'
  | 'status'
  | 'text'
  | 'amount'
  | 'quantity'
  | 'rate'
  | 'percent'
  | 'position'
  | 'period'
  | 'unit'
  | 'currency'
  | 'language'
  | 'picture'
  | 'note'
  | 'flag'
  | 'address'
  | 'postcode'
  | 'place'
  | 'country'
  | 'taxNumber'
  | 'contact'
  | 'system'
