import { type CatalogTable, findTable, type ForeignKey, type TableCatalog } from './types'

/** A table that can be joined to a level, found from a foreign key. */
export interface Relation {
  /** `related`: each record points at one at most; `detail`: a record has many */
  direction: 'related' | 'detail'
  table: string
  /** columns of the level's table and of the joined one that must be equal, in pairs */
  on: { from: string; to: string }[]
  /** a name for it in formulas: the singular for a related record, the plural for a detail level */
  name: string
  foreignKey: string
}

/** What can be joined to a table by its foreign keys: the records it points at, then the records that point at it. */
export function relationsOf(catalog: TableCatalog, table: string): Relation[] {
  const related = catalog.foreignKeys
    .filter(key => key.from.table === table)
    .map((key): Relation => ({
      direction: 'related',
      table: key.to.table,
      on: pairs(key.from.columns, key.to.columns),
      name: relatedName(key),
      foreignKey: key.name,
    }))
  const details = catalog.foreignKeys
    .filter(key => key.to.table === table)
    .map((key): Relation => ({
      direction: 'detail',
      table: key.from.table,
      on: pairs(key.to.columns, key.from.columns),
      name: detailName(catalog, key),
      foreignKey: key.name,
    }))
  return [...related, ...details]
}

function pairs(from: string[], to: string[]): { from: string; to: string }[] {
  return from.map((column, index) => ({ from: column, to: to[index]! }))
}

/** "customer_id" → customer; a key of several columns takes the table's name. */
function relatedName(key: ForeignKey): string {
  return key.from.columns.length === 1 ? key.from.columns[0]!.replace(/_(id|code|no)$/, '') : singular(key.to.table)
}

/** "invoice_lines" under "invoices" → lines. */
function detailName(catalog: TableCatalog, key: ForeignKey): string {
  const prefix = `${singular(key.to.table)}_`
  const short = key.from.table.startsWith(prefix) ? key.from.table.slice(prefix.length) : key.from.table
  const several = catalog.foreignKeys.filter(other => other.to.table === key.to.table && other.from.table === key.from.table).length > 1
  return several ? `${short}_by_${key.from.columns[0]!.replace(/_id$/, '')}` : short
}

/** The singular of an English table name: "categories" → category, "taxes" → tax. */
export function singular(name: string): string {
  if (/ies$/.test(name)) return name.replace(/ies$/, 'y')
  if (/(x|s|sh|ch)es$/.test(name)) return name.replace(/es$/, '')
  if (/people$/.test(name)) return name.replace(/people$/, 'person')
  return name.replace(/([^s])s$/, '$1')
}

/** The key columns of a table: its primary key, or all its columns where it has none. */
export function keyOf(table: CatalogTable): string[] {
  return table.primaryKey.length ? table.primaryKey : table.columns.map(column => column.name)
}

/** Is the column part of the primary key or of a foreign key? */
export function isKeyColumn(catalog: TableCatalog, table: string, column: string): boolean {
  return (
    !!findTable(catalog, table)?.primaryKey.includes(column) ||
    catalog.foreignKeys.some(key => key.from.table === table && key.from.columns.includes(column))
  )
}
