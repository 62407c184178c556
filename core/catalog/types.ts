import type { ValueType } from '../dataset/records'

/** A column of a table of a source. */
export interface CatalogColumn {
  name: string
  type: ValueType
  /** the database's own name of the type, e.g. "numeric(12,2)" */
  databaseType: string
  /** digits after the mark, for exact numbers that declare them */
  scale?: number
  required: boolean
  comment?: string
}

export interface CatalogTable {
  schema: string
  name: string
  comment?: string
  columns: CatalogColumn[]
  primaryKey: string[]
  /** the planner's estimate of its rows */
  rowEstimate: number
}

/** A foreign key: `from` points at `to`, columns paired by position. */
export interface ForeignKey {
  name: string
  from: { table: string, columns: string[] }
  to: { table: string, columns: string[] }
}

/** What a source holds. Tables are those of its one schema, by name. */
export interface Catalog {
  tables: CatalogTable[]
  foreignKeys: ForeignKey[]
}

export function findTable(catalog: Catalog, name: string): CatalogTable | undefined {
  return catalog.tables.find(table => table.name === name)
}

/** A name as people read it: "due_date" → "Due date". */
export function readable(name: string): string {
  const words = name.replace(/_id$/, '').replace(/([a-z])([A-Z])/g, '$1 $2').replaceAll('_', ' ').trim()
  return words.charAt(0).toUpperCase() + words.slice(1).toLowerCase()
}
