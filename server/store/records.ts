/** What the store refuses: one sentence, with the status that an answer over HTTP takes. */

import type { RefreshOutput } from '../../core/api/answers'
import type { ReportDefinition } from '../../core/definition/report'

export class StoreError extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message)
  }
}

/** A save that was based on an older draft: both are kept. */
export class ConflictError extends StoreError {
  constructor(
    readonly current: number,
    readonly kept: number,
  ) {
    super(
      `Somebody else saved this report in the meantime (version ${current}); your changes are kept beside it as version ${kept}. ` +
        `Open the current version and bring them over.`,
      409,
    )
  }
}

export interface ReportRecord {
  id: string
  name: string
  shelf: string
  version: number
  published: number | null
  /** said where whoever asks may only run it */
  edit?: boolean
  definition: ReportDefinition
}

/**
 * Rows of a report under an address of their own, for a spreadsheet to read again. `until` is the last day on which it answers, as text.
 */
export interface RefreshAddress {
  id: string
  reportId: string
  /** in whose name it reads */
  personId: string | null
  label: string
  answers: Record<string, string>
  output: RefreshOutput
  until: string
  createdAt: Date
  revokedAt: Date | null
  lastUsedAt: Date | null
  uses: number
}

/** A version as lists show it. */
export interface VersionInfo {
  number: number
  name: string | null
  state: 'saved' | 'conflict'
  savedAt: Date
}

/** A source that somebody has added. */
export interface Connection {
  id: string
  name: string
  kind: string
  options: Record<string, unknown>
}
