import type { Cell } from '../../../../core/intake/cells'
import type { RowBytes } from '../delimitedFile'

/** A file that cannot be read: one sentence. */
export class FileFault extends Error {}

/** A table in a file. */
export interface FileTable {
  /** its name within the file; empty where the file is one table */
  name: string
  /** it is not seen by whoever opens the file */
  hidden?: boolean
}

export interface Reading {
  /** told the bytes so far */
  progress?: (bytes: number) => void
  /** waited for between parts, so that whoever takes the rows keeps up */
  drained?: () => Promise<void>
  signal?: AbortSignal
  /** takes rows by their bytes, where the file is of separated values: nothing as long as they are to be read one by one */
  bytes?: (separator: string) => RowBytes | undefined
}

/** A file that is open for reading. */
export interface OpenedFile {
  tables: FileTable[]
  /** how it is written, in words */
  written: string
  /** cells are written in one way, whatever language: numbers with a point, days as ISO 8601; the first row are the titles */
  typed: boolean
  /** rows have all the same number of cells, though the last of them may mean nothing */
  padded?: boolean
  /** rows of a table from its beginning, each with its line in the file, from 1 @throws FileFault, or the signal's reason */
  rows: (table: string, onRow: (cells: Cell[], line: number) => void, more: Reading) => Promise<void>
  /** what is to be told of a table once its rows were read */
  notes?: (table: string) => string[]
  /** the same file read in another way, where an error says that this one cannot be right */
  otherwise?: (error: unknown) => OpenedFile | undefined
  close?: () => void
}

/** A kind of files that become tables. */
export interface FileKind {
  /** of names, in small letters with their dot */
  endings: readonly string[]
  /** a few words for people: “workbook” */
  name: string
  /** @throws FileFault */
  open: (path: string, name: string) => Promise<OpenedFile>
}

/** Rows after which whoever takes them is waited for, and progress is told. */
export const rowsAtOnce = 5000
