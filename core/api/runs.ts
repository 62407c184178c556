import type { TieOutResult } from '../definition/tieOuts'

/** How far a run is; one that runs reads until it has pages, and composes from then on. */
export const runStates = ['waiting', 'running', 'done', 'failed', 'cancelled'] as const
export type RunState = (typeof runStates)[number]

/** A file that was made of a run: what was asked for, as a query of its address, and how far it is. */
export interface RunFileInfo {
  format: string
  state: 'making' | 'done' | 'failed'
  query: string
}

/** A run as lists show it. */
export interface RunInfo {
  id: string
  report: string
  name: string
  layout?: string
  answers: Record<string, string>
  /** the answers in words */
  asked: string[]
  state: RunState
  /** so far, while it runs */
  pages: number
  /** ISO 8601 */
  startedAt: string
  /** who ran it, where people sign in */
  person?: string
  mine: boolean
  sentences?: string[]
  /** records of its first level: so far while it runs, then all */
  rows?: number
  /** what it took, in milliseconds */
  ms?: number
  /** while it runs: records and pages of the run before it with the same answers, and milliseconds that may be left */
  about?: { rows: number; pages: number }
  left?: number
  ties?: { count: number; failed: string[] }
  files: RunFileInfo[]
  pinned: boolean
  /** the run of the same report and layout before it */
  earlier?: string
}

/** Which runs are listed: all that is said has to hold. */
export interface RunFilter {
  report?: string
  /** id of a person */
  person?: string
  state?: RunState
  /** a day as text, in the zone of the machine */
  day?: string
}

/** The list, with what it can be narrowed to. */
export interface RunList {
  runs: RunInfo[]
  /** how many there are in all that hold, where not all are listed */
  more: number
  reports: { id: string; name: string }[]
  people: { id: string; name: string }[]
  keeping: Keeping
}

/** How long runs are kept: so many, for so many days; those that are pinned stay. */
export interface Keeping {
  runs: number
  days: number
  version: number
}
export const usualKeeping = { runs: 200, days: 90 }

/** What tie-outs come to, in short. */
export const tiesOf = (results: readonly TieOutResult[] | undefined): RunInfo['ties'] =>
  results?.length ? { count: results.length, failed: results.filter(each => !each.holds).map(each => each.name) } : undefined
