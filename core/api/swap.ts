import { object, string, ValidationError } from 'yup'
import type { SourceNames } from '../swap/names'
import type { TableMatch } from '../swap/match'
import { faultOf, recordOf } from '../value/checking'
import { RequestError } from './requests'
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
  changes: RunChanges
}

const names = object({
  tables: recordOf(
    object({ table: string().strict().required().max(200), columns: recordOf(string().strict().required().max(200)) }).noUnknown(),
  ),
}).noUnknown()

/** Reads names that came with a request. @throws RequestError with one sentence */
export function readNames(value: unknown): SourceNames {
  try {
    return names.validateSync(value, { strict: true }) as SourceNames
  } catch (error) {
    if (error instanceof ValidationError) throw new RequestError(`The names of tables are not complete: ${faultOf(error)}.`)
    throw error
  }
}

/** The names that matches mean: what has no match is left out. */
export function namesOfMatches(tables: readonly TableMatch[]): SourceNames {
  return {
    tables: Object.fromEntries(
      tables.flatMap(({ table, to, columns }) =>
        to ? [[table, { table: to, columns: Object.fromEntries(columns.flatMap(each => (each.to ? [[each.column, each.to]] : []))) }]] : [],
      ),
    ),
  }
}
