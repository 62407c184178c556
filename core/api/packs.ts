import type { PackDefinition } from '../pack/definition'
import type { TieOutResult } from '../definition/tieOuts'

export type PackRunState = 'waiting' | 'running' | 'held' | 'sending' | 'done' | 'failed' | 'dropped' | 'cancelled'
export type DeliveryState = 'ready' | 'sending' | 'sent' | 'refused' | 'uncertain' | 'unaddressed' | 'dropped'

/** How far a run of a pack is. */
export interface PackProgress {
  /** pages are put into letters before files are written */
  doing: 'reading' | 'letters' | 'writing' | 'sending'
  done: number
  of: number
  /** what it is at */
  at?: string
  /** milliseconds that may be left of this, once that can be told */
  left?: number
}

/** A tie-out of a run of a pack: of one of its reports, or across them. */
export interface PackTieResult extends TieOutResult {
  /** what the report is called; none where it is across reports */
  report?: string
}

/** A run of a pack as lists show it. */
export interface PackRunInfo {
  id: string
  pack: string
  name: string
  state: PackRunState
  dry: boolean
  occasion?: string
  /** ISO 8601 */
  startedAt: string
  endedAt?: string
  moment?: string
  person?: string
  asked: string[]
  progress?: PackProgress
  ties?: { count: number; failed: PackTieResult[] }
  sentences?: string[]
  /** `file` is what it is asked for by */
  files: { format: string; name: string; file: string }[]
  decided?: { by: string; at: string; reason: string }
}

/** A run of a report that is part of a run of a pack. */
export interface PackPartInfo {
  id: string
  part: string
  name: string
  state: string
  pages: number
  report: string
  answers: Record<string, string>
  layout?: string
  asked: string[]
}

export interface DeliveryInfo {
  id: string
  kind: 'mail' | 'print' | 'file'
  to: string[]
  about: string
  state: DeliveryState
  said?: string
  at?: string
  /** attachments, by their names */
  files: string[]
}

/** Some of what goes out of a run of a pack. */
export interface DeliveryPage {
  all: number
  deliveries: DeliveryInfo[]
}

export interface PackRunDetail extends PackRunInfo {
  parts: PackPartInfo[]
  /** how many go out of it, by their states */
  counts: { state: DeliveryState; count: number }[]
  allTies: PackTieResult[]
}

export interface PackInfo {
  id: string
  name: string
  version: number
  definition: PackDefinition
  /** the next times at which it is due, ISO 8601 */
  next: string[]
  last?: PackRunInfo
  /** occasions that were missed and left out, the latest first */
  left: string[]
  runs: PackRunInfo[]
}
