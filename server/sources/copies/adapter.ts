import type { ValueType } from '../../../core/value/value'

/** What somebody says against a database that is copied: one sentence. */
export class AdapterError extends Error {}

/** A column of a table of another database, and how it is kept in ours. */
export interface ForeignColumn {
  name: string
  /** the type of its column in the copy, as PostgreSQL writes it */
  kept: 'text' | 'date' | 'timestamp' | 'boolean' | 'integer' | 'bigint' | `numeric${string}`
  required: boolean
  comment?: string
}

export interface ForeignTable {
  name: string
  comment?: string
  columns: ForeignColumn[]
  key: string[]
  /** rows as the database estimates them */
  rows: number
  /** what is to be known of it: columns that are left out, and why */
  notes: string[]
}

export interface ForeignKeyOf {
  name: string
  from: { table: string; columns: string[] }
  to: { table: string; columns: string[] }
}

/** What another database holds. */
export interface Foreign {
  version: string
  tables: ForeignTable[]
  keys: ForeignKeyOf[]
  notes: string[]
}

/** A cell as PostgreSQL's COPY takes it, before it is escaped; null where it is empty. */
export type ForeignCell = string | null

/** A part of a table's rows: those that may be others since, or those of some keys. */
export type ForeignPart =
  /** where a column that grows is at or after a value, or empty */
  | { column: string; from: string }
  /** those whose key, one whole number, is one of these; they are digits */
  | { key: string; of: readonly string[] }

/** Keys that a block packs. */
export const blockSize = 32
/**
 * 32 keys, packed: block n is of those from 32 n on (n is below zero where they are), and bit k of `present` is set where 32 n + k is
 * there. Both are whole numbers, as digits.
 */
export type KeyBlock = [block: string, present: string]

/** A database that is open: all that is read of it is of one moment. */
export interface OpenForeign {
  look: () => Promise<Foreign>
  /**
   * Rows of a table, in parts that are waited for; `told` gets sentences about values that were taken as empty. @throws AdapterError
   * where a value cannot be kept as it is, with its table and column
   */
  read: (
    table: ForeignTable,
    onRows: (rows: ForeignCell[][]) => Promise<void>,
    told: (note: string) => void,
    part?: ForeignPart,
  ) => Promise<void>
  /**
   * Keys of a table, where a key is one whole number: a block for each 32 of which there is one, in no order. An adapter without it copies
   * tables whole, and is never asked for a part of them.
   */
  blocks?: (table: ForeignTable, key: string, onBlocks: (blocks: KeyBlock[]) => Promise<void>) => Promise<void>
  close: () => Promise<void>
}

/** A kind of database that can be copied: see docs/sources.md. */
export interface Adapter {
  kind: string
  /** as people call it */
  name: string
  /** how its addresses begin */
  schemes: readonly string[]
  /** opens a connection and begins a moment that only reads @throws AdapterError */
  open: (address: string, password?: string) => Promise<OpenForeign>
}

/** Our type of a kept column. */
export function valueTypeOf(kept: ForeignColumn['kept']): ValueType {
  if (kept === 'text' || kept === 'date' || kept === 'boolean') return kept
  return kept === 'timestamp' ? 'moment' : 'number'
}

/** The place that an address names, without a password. */
export function plainAddress(address: string): string {
  try {
    const url = new URL(address)
    return `${decodeURIComponent(url.username)}@${url.hostname}${url.port ? `:${url.port}` : ''}${url.pathname}`
  } catch {
    return 'its address'
  }
}
