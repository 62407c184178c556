import type { ProposedColumn } from '../intake/understand'

/** A file as it was understood, before it is taken in. */
export interface UnderstoodTable {
  /** the table that it becomes */
  table: string
  encoding: string
  separator: string
  /** its first row are titles */
  titles: boolean
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
  understood: UnderstoodTable
}

/** What came of the tables of a new source. */
export interface AddedSource {
  id: string
  name: string
  tables: { name: string; rows: number; columns: { name: string; title: string; type: string }[]; key: string[]; problems: string[] }[]
}
