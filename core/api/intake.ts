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
  tables: { name: string; comment?: string; columns: number; rows: number; notes: string[] }[]
  notes: string[]
}

/** How far a copy has come, of about so many rows; and what it came to. */
export interface CopyState {
  generation: number
  /** those that can be gone back to, with the moment of their rows (ISO 8601) */
  generations: { number: number; at: string; rows: number }[]
  /** the last refresh failed */
  failed?: { at: string; why: string }
  /** one is being made now */
  running?: { table: string; rows: number; of: number }
}
