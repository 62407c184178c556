import type { ValueType } from '../value/value'

/** A column of a table of a source. */
export interface CatalogColumn {
  name: string
  type: ValueType
  /** the database's own name of the type, e.g. "numeric(12,2)" */
  databaseType: string
  /** digits after the mark, for exact numbers that declare them */
  scale?: number
  required: boolean
  /** its digits are those of a floating-point number: what stands in the source may be near to a number that people mean */
  inexact?: boolean
  /** the name under which its table also gives it as the database keeps it, where it is read as another type: for joins and keys */
  raw?: string
  comment?: string
  /** caption and format that are kept with the source, for all reports */
  caption?: string
  format?: string
  /** a ratio of other columns, worked out again from their totals; `forced` where its author said so */
  ratio?: { formula: string; forced: boolean }
}

export interface CatalogTable {
  schema: string
  name: string
  comment?: string
  columns: CatalogColumn[]
  primaryKey: string[]
  /** the planner's estimate of its rows */
  rowEstimate: number
  /** calculated fields that are kept with the source, for all reports */
  calculated?: { name: string; formula: string; total?: 'ratio' | 'records' }[]
}

/** A foreign key: `from` points at `to`, columns paired by position. */
export interface ForeignKey {
  name: string
  from: { table: string; columns: string[] }
  to: { table: string; columns: string[] }
  /** declared by the database, or kept with the source after somebody made or accepted it */
  origin?: 'declared' | 'kept'
  /** does each record find one at most? Declared keys say so by themselves */
  unique?: boolean
}

/** The tables of a source, by name, and how they belong together. */
export interface TableCatalog {
  tables: CatalogTable[]
  foreignKeys: ForeignKey[]
}

/**
 * What people call a column: its kept caption, what stands before a colon in its comment (“Amount due: total less what is paid”), or its
 * readable name.
 */
export function columnCaption(column: CatalogColumn): string {
  return column.caption ?? /^([^:.;]{1,40}):\s/.exec(column.comment ?? '')?.[1] ?? readable(column.name)
}

export function findTable(catalog: TableCatalog, name: string): CatalogTable | undefined {
  return catalog.tables.find(table => table.name === name)
}

/** A name as people read it: "due_date" → "Due date". */
export function readable(name: string): string {
  const words = name
    .replace(/^@/, '')
    .replace(/_id$/, '')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replaceAll('_', ' ')
    .trim()
  return words.charAt(0).toUpperCase() + words.slice(1).toLowerCase()
}

export interface JoinPair {
  from: string
  to: string
}

/** A name within a sentence: its first letter small, but for one that is all of capitals. */
export const decapitalised = (text: string) => (/^\p{Lu}\p{Ll}/u.test(text) ? text.charAt(0).toLowerCase() + text.slice(1) : text)
