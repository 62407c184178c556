import type { SourceNames } from '../swap/names'
import type { TableMatch } from '../swap/match'
import type { RunChanges } from './answers'

/** A report held against another source: what it needs, and what was found for it there. */
export interface SwapProposal {
  from: { id: string; name: string }
  to: { id: string; name: string }
  tables: TableMatch[]
  /** what the report lacks with all that is proposed, in sentences */
  lacks: string[]
}

/** What a report lacks under names that somebody chose. */
export interface SwapCheck {
  lacks: string[]
}

/** What a report gives on both sources with the same answers. */
export interface SwapProof {
  same: boolean
  /** ids of both runs, to be looked at */
  before: string
  now: string
  /** pages of both */
  pages: [number, number]
  /** pages that differ in anything, from 0: also in charts and in what stands outside of rows and panels */
  differing: number[]
  changes: RunChanges
}

/** The names that matches mean: what has no match is left out. */
export function namesOfMatches(tables: readonly TableMatch[]): SourceNames {
  return {
    tables: Object.fromEntries(
      tables.map(({ table, to, columns }) => [
        table,
        { table: to ?? '', columns: Object.fromEntries(columns.map(each => [each.column, (to && each.to) ?? ''])) },
      ]),
    ),
  }
}
