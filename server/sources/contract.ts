import type { Catalog } from '../../core/books/catalog'
import type { SourceSettings } from '../../core/books/settings'
import type { Role } from '../../core/api/people'
import type { Guard } from '../../core/guard/guards'
import type { ReportDefinition } from '../../core/definition/report'
import type { TableColumn } from '../../core/definition/tables'
import type { PackDefinition } from '../../core/pack/definition'
import type { Query, Rows, ShownTables } from '../../core/sql/query'
import type { Day } from '../../core/value/date'
import type { PackedRows } from '../../core/value/packed'
import type { Context } from '../access/context'

/**
 * Something that a reader of the source is told in one sentence; `position` is the place in the statement that is meant, counted from 1.
 */
export class SourceError extends Error {
  constructor(
    message: string,
    readonly position?: number,
  ) {
    super(message)
  }
}

export interface QueryOptions {
  /** what the reading is for: of one person's, each has its turn */
  task?: string
  /** most rows a statement may give */
  rowLimit?: number
  /** longest time it may run, in milliseconds */
  timeLimit?: number
  signal?: AbortSignal
  /** of a text that is described: as Query.guard */
  guard?: readonly string[]
  /** of a text that is described: as Query.shown */
  shown?: ShownTables
  /** called for each part of the rows as it comes; without it they are collected */
  onPart?: (rows: PackedRows) => void
}

export const defaultLimits = {
  rows: 2_000_000,
  milliseconds: 120_000,
  /** of a text of an author's, while all others wait */ authored: 30_000,
}

/** A moment of a source at which much is read: levels, counts, tie-outs and traces of a run all go through one. */
export interface Snapshot {
  /** when it was opened, in milliseconds since 1970 */
  moment: number
  /** texts of authors are guarded by the engine itself, where a query says how */
  guardsTexts?: true
  /** @throws SourceError, or the signal's reason */
  query: (query: Query, options?: QueryOptions) => Promise<Rows>
  /** the columns that a statement would give; it is not run */
  describe: (text: string, options?: QueryOptions) => Promise<TableColumn[]>
  /** its rows go to a port instead, in so many parts; where that is gone, to `onPart` */
  queryTo: (port: number, query: Query, options: QueryOptions) => Promise<{ parts: number }>
  /** a way by which rows go to another thread without passing through this one: the port for that thread, and its number in queries */
  port: () => { number: number; port: import('node:worker_threads').MessagePort }
  close: () => void
}

/** Whether a source can be read, and if not, since when (milliseconds since 1970) and why, in one sentence. */
export interface SourceState {
  away?: { since: number; why: string }
}

export interface SourceAbout {
  /** where its rows come from, in a few words, without anything secret */
  from: string
  /** the moment of its rows, in milliseconds since 1970; of a source that is read in place none */
  asOf?: number
}

/** What reports read from. Its dialect owns collation, folding, arrays, casts and types. */
export interface Source {
  id: string
  name: string
  kind: string
  dialect: 'postgresql'
  /** the schema of its tables */
  schema: string
  /** its day: `today()` of a formula */
  clock: () => Day
  open: () => Promise<void>
  /** does it hold what it needs, so that opening it takes a moment only? */
  made: () => boolean
  /** what it holds, as the source itself says */
  catalog: (context: Context) => Promise<Catalog>
  /** @throws SourceError where the source is away */
  snapshot: (context: Context) => Promise<Snapshot>
  state: () => SourceState
  /** can it guard SQL texts of authors itself? */
  guardsTexts?: () => boolean
  /** what is said of it from the outset, before what is kept with it */
  said?: SourceSettings
  /** what people are told of it beside its name */
  about?: () => SourceAbout
  close: () => Promise<void>
  /** the simulated books in which somebody can post, where the source has one */
  desk?: Desk
}

/** Where documents are posted to a source that is there to be tried. What is offered and posted is the source's own affair. */
export interface Desk {
  offers: (context: Context) => Promise<unknown>
  /** open documents of somebody, by the words of the question */
  open: (context: Context, asked: Readonly<Record<string, unknown>>) => Promise<unknown>
  /** @throws SourceError with one sentence; comes back with the number of the document */
  post: (context: Context, document: unknown) => Promise<string>
}

/** Invented people, their teams and guards. */
export interface DemoCompany {
  teams: { name: string; attributes: Record<string, string[]> }[]
  people: { name: string; signIn: string; role: Role; teams: string[] }[]
  guards: Guard[]
}

/** A source that comes with the program. */
export interface SourcePlugin {
  open: (options: { folder: string; scale: number }) => Source
  /** invented people who come with it, with their teams and what these see of it; teams are called by their names */
  company?: () => { source: string; demo: DemoCompany }
  /** reports that the library is offered, each once */
  reports: () => { shelf: string; name: string; definition: ReportDefinition }[]
  /** packs of these that there are to begin with, each once; their reports are called by their names */
  packs?: () => { name: string; definition: PackDefinition }[]
}
