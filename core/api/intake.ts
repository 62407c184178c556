import type { ColumnForm } from '../intake/cells'
import type { ProposedColumn } from '../intake/understand'

/** A table of a file as it was understood, before it is taken in. */
export interface UnderstoodTable {
  /** its name within the file, where that holds several */
  sheet?: string
  /** not seen by whoever opens the file */
  hidden?: boolean
  /** the table that it becomes */
  table: string
  /** how the file is written, in words */
  written: string
  /** it has a row of titles, on this line */
  titles: boolean
  titleLine?: number
  /** names and types are those of the file itself */
  typed: boolean
  /** rows at its end that look like totals of the others */
  totals: { line: number; words: string }[]
  columns: ProposedColumn[]
  rows: number
  notes: string[]
  /** its first rows, as the file writes them */
  first: string[][]
}

/** A file that has been brought, and what it was understood as. */
export interface BroughtFile {
  id: string
  name: string
  size: number
  understood: UnderstoodTable[]
}

/** What came of the tables of a new source. */
export interface AddedSource {
  id: string
  name: string
  tables: { name: string; rows: number; columns: { name: string; title: string; type: string }[]; key: string[]; problems: string[] }[]
}

/** What was found at a server that somebody wants to connect. */
export interface TriedServer {
  /** who reads, where; without a password */
  place: string
  version: string
  encrypted: boolean
  /** its time zone, by its IANA name, and its clock, "2026-03-14 09:26" */
  zone: string
  now: string
  superuser: boolean
  /** schemas with tables that may be read; `rows` as the server estimates them */
  schemas: { name: string; tables: number; rows: number }[]
  /** what is to be known before: one sentence each */
  notes: string[]
}

/** A server that was connected. */
export interface AddedServer {
  id: string
  name: string
  tried: TriedServer
  tables: number
}

/** What was found in a database that somebody wants to copy. */
export interface TriedCopy {
  version: string
  /** `rows` as the database estimates them */
  tables: {
    name: string
    comment?: string
    columns: number
    rows: number
    /** columns by which a refresh can find what has changed */
    growing: string[]
    notes: string[]
  }[]
  notes: string[]
}

/** How far a copy has come, of about so many rows; and what it came to. */
export interface CopyState {
  generation: number
  /** those that can be gone back to, with the moment of their rows (ISO 8601) */
  generations: { number: number; at: string; rows: number; bytes?: number }[]
  /** the last refresh failed */
  failed?: { at: string; why: string }
  /** one is being made now */
  running?: { table: string; rows: number; of: number }
  /** it outgrows the embedded engine: figures, and what to do */
  advice?: string
}

/** What is kept of a source that somebody has added, without anything secret. */
export type SourceConnection =
  | { name: string; kind: 'server'; url: string; schemas: string[]; zone: string; day: string }
  /** `tables`: those that are wanted; without them, all. `grows`: columns that grow with each change, by their tables */
  | { name: string; kind: 'copy'; url: string; tables?: string[]; grows: Record<string, string> }
  /** `watch`: a folder of the server's machine; `tables`: which file each is of, and what was said of it */
  | { name: string; kind: 'files'; watch: string; tables: Record<string, { file: string; sheet?: string; said?: SaidFile }> }

/** What somebody said of a file, against what was understood. */
export interface SaidFile {
  titles?: boolean
  titleLine?: number
  forms?: Record<string, ColumnForm>
}
