import type { Catalog } from '../../core/books/catalog'
import type { TieOutResult } from '../../core/definition/tieOuts'
import type { RunInput } from './input'
import type { ReportDefinition } from '../../core/definition/report'
import type { KeptPlaces, KeptRead } from './keptRows'
import type { RunOutput } from './output'
import type { Cover } from '../../core/pack/cover'
import type { SheetPart } from './packBook'
import type { PackedPart } from './packFiles'
import type { PinnedFile } from './pinned'
import type { Question } from './questions'
import type { ReadingPorts } from './remote'
import type { KeptPages } from './spool'
import type { FigureWanted } from './statementTrace'
import type { FigurePlace } from './behind'

/** What a run's thread is sent: catalogs are with it already by their versions, or asked for. */
export type SentInput = Omit<RunInput, 'catalog' | 'nested'> & { nested?: Record<string, SentInput> }

export function sentInput({ catalog: _, nested, ...rest }: RunInput): SentInput {
  return nested ? { ...rest, nested: Object.fromEntries(Object.entries(nested).map(([block, each]) => [block, sentInput(each)])) } : rest
}

/** A run and all that are nested in it. */
export const runsIn = (input: RunInput): RunInput[] => [input, ...Object.values(input.nested ?? {}).flatMap(runsIn)]

export type RunTask =
  | { kind: 'warm' }
  /** of rows that a run has kept, where `kept` says so; else of the source's, which are kept beside the pages of a run */
  | { kind: 'run'; input: SentInput; output: RunOutput; ports: ReadingPorts; kept?: KeptRead }
  | { kind: 'preview'; input: SentInput; limit: number; ports: ReadingPorts }
  | { kind: 'firstPage' | 'tieOuts'; input: SentInput; ports: ReadingPorts }
  | { kind: 'trace'; input: SentInput; wanted: FigureWanted; ports: ReadingPorts; kept?: KeptRead }
  | { kind: 'behind'; input: SentInput; wanted: FigurePlace; ports: ReadingPorts; kept: KeptRead; pages: KeptPages }
  /** a definition that comes from outside, or the text of one, to be checked */
  | { kind: 'definition'; value: unknown }
  | { kind: 'definitionText'; text: string }
  /** the statements that answer a question about a report */
  | { kind: 'plan'; input: SentInput; question: Question; ports: ReadingPorts }
  | { kind: 'pin'; input: SentInput; file: PinnedFile; held: Uint8Array | undefined; ports: ReadingPorts }
  | { kind: 'pinnedFile'; input: SentInput; rows: Uint8Array; format: 'json' | 'csv'; level: string | undefined; ports: ReadingPorts }
  | { kind: 'changes'; input: RunInput; before: KeptPages; now: KeptPages }
  | { kind: 'differingPages'; before: KeptPages; now: KeptPages }
  | { kind: 'pdf' | 'documents'; title: string; kept: KeptPages; file: string }
  | { kind: 'letters'; input: SentInput; ports: ReadingPorts; kept: KeptRead; pages: KeptPages; folder: string }
  | { kind: 'packPdf'; title: string; parts: PackedPart[]; cover?: Cover; numbered: boolean; file: string }
  /** `input` holds those of the parts as if they were nested in it, so that their catalogs are found */
  | { kind: 'packBook'; input: SentInput; ports: ReadingPorts; title: string; parts: SheetPart[]; facts: [string, string][]; file: string }
  | { kind: 'packZip'; parts: PackedPart[]; file: string }

/** `kept` is where all pages and documents begin, for a run that keeps its pages: news on the way may come late or not at all. */
export interface RunResult {
  kept?: { places: number[]; outline: RunProgress['outline']; rows: KeptPlaces }
  /** the report as it was run, where its SQL texts give other columns than it says, and what has changed, in sentences */
  changed?: { definition: ReportDefinition; sentences: string[] }
  pages: number
  rows: Record<string, number>
  ms: { fetch: number; shape: number; compose: number; write: number }
  /** what the report's tie-outs came to */
  tieOuts?: TieOutResult[]
}

/** News of a run that keeps its pages: how far it is, and the names of the records that begin on new pages. */
export interface RunProgress {
  kind: 'progress'
  places: number[]
  outline: { page: number; label: string }[]
  /** the JSON text of the first page, long before the others: see earlyPage */
  early?: string
  /** records of the first level that were read so far */
  read?: number
}

/** A failure as it crosses threads. */
export type TaskFailure = { failed: string[] }

/** A thread that does not have the catalog of a version asks for it. */
export interface CatalogAsked {
  kind: 'catalog'
  version: string
}
export interface CatalogReply extends CatalogAsked {
  catalog: Catalog
}
