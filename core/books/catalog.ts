import type { TableCatalog } from '../catalog/types'
import type { FiscalCalendar } from './calendar'
import type { LedgerMap } from './ledger'
import type { Day } from '../value/date'

/** What a source holds: its tables, and its books where it keeps any. */
export interface Catalog extends TableCatalog {
  calendar?: FiscalCalendar
  /** where it keeps its books: as said, or as found */
  ledger?: LedgerMap
  /** first and last day of its postings */
  posted?: { first: Day; last: Day }
}
