import type { NestedTotal } from '../definition/blocks/nested'
import type { ParameterDefinition } from '../definition/parameters'
import type { Day } from '../value/date'
import type { Changes } from '../compare/changes'
import type { LedgerMap } from '../books/ledger'
import type { FiscalYearRule } from '../books/fiscalYear'
import type { FiscalPeriod } from '../books/calendar'
import type { ChartRow } from '../books/chart'
import type { LedgerCheck } from '../sql/ledgerChecks'

/** Changes with what stands over the columns, by block. */
export interface RunChanges extends Changes {
  titles: Record<string, Record<string, string>>
}

/**
 * A figure of a statement followed back: to its accounts, and to the journal lines of these with what each brings. Amounts are exact and
 * written as numbers.
 */
export interface StatementTrace {
  figure: string
  words: string
  /** of a difference or a per cent: both columns that it is held between, each to be traced by itself */
  sides?: { column: string; words: string }[]
  accounts: { code: string; name: string; amount: string }[]
  /** columns of the journal lines, before debit and credit */
  columns: string[]
  /** which of them names the document; −1 where none does */
  document: number
  lines: { cells: string[]; debit: string; credit: string }[]
  /** how many there are in all, and their debits − credits */
  count: number
  total: string
  /** the figure is that of a run that is kept, and its postings, as they are now, come to something else */
  changed?: true
}

/** A report as it can be nested in another. */
export interface NestedAbout {
  id: string
  name: string
  /** the one that is printed */
  version: number
  layouts: string[]
  /** those that are asked */
  parameters: ParameterDefinition[]
  totals: NestedTotal[]
}

/** A report that a search of the library finds, and by what. */
export interface LibraryHit {
  id: string
  why: 'name' | 'table' | 'text'
  what: string
}

export interface LibraryShelf {
  id: string
  name: string
  /** id of the team whose it is */
  team?: string
  /** what is published on it waits for a second person */
  release?: boolean
  reports: {
    id: string
    name: string
    version: number
    published: number | null
    /** said where whoever asks may only run it */
    edit?: boolean
    /** the version that waits for a second person */
    waiting?: number
  }[]
}
export type RefreshOutput =
  | { format: 'csv'; level: string; separator?: 'comma' | 'semicolon' | 'tab'; decimal?: 'point' | 'comma'; guard?: boolean }
  | { format: 'json'; level?: string }

export interface Choice {
  value: string
  label: string
}

/** A parameter as the command line lists it; of many choices the first, with how many there are. */
export interface ListedParameter {
  name: string
  label: string
  kind: string
  required: boolean
  default: string
  help?: string
  narrowedBy?: string[]
  choices?: Choice[]
  choicesInAll?: number
}

/** The books of a source: where they are, what was found by itself, the calendar, and what checking against the data says. */
export interface Books {
  ledger?: LedgerMap
  /** what was found by itself, where it is not what is said */
  found?: LedgerMap
  fiscalYear?: FiscalYearRule
  /** does the source have a table of periods? */
  ownPeriods: boolean
  /** the last two years' periods */
  periods: FiscalPeriod[]
  accounts: ChartRow[]
  checks: LedgerCheck[]
}

/** A source as the list of sources tells it. */
export interface SourceInfo {
  id: string
  name: string
  kind: string
  /** its day, in days since 1970 */
  today: Day
  /** somebody can post documents in it */
  desk: boolean
  /** id of the source that is read here under other names */
  of?: string
  /** where its rows come from, in a few words */
  from?: string
  /** the moment of its rows, where it is a copy (milliseconds since 1970) */
  asOf?: number
  /** since when it cannot be read (milliseconds since 1970), and why */
  away?: { since: number; why: string }
}

/** A document as it stands in the source: its record, and the rows that belong to it. */
export interface SourceDocument {
  table: string
  fields: { caption: string; value: string; number: boolean }[]
  parts: { caption: string; columns: { caption: string; number: boolean }[]; rows: string[][]; count: number }[]
}

/** What a source holds and lacks. */
export interface SourceCheck {
  /** can be read now; else why not, in one sentence */
  reached: boolean
  why?: string
  tables: number
  relations: number
  /** accounts, journal lines and what else its books are in; none where there are no books */
  books?: { accounts: string; lines: string; from?: string; to?: string }
  /** reports over it that lack something, each with what is wrong */
  reports: { name: string; problems: string[] }[]
}
