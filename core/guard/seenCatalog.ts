import type { Catalog } from '../books/catalog'
import { ledgerLack } from '../books/ledger'
import type { CatalogTable } from '../catalog/types'
import { FormulaError, parseFormula, pathsOf } from '../formula/syntax'
import type { Sight } from './sight'

/** Names that a formula of a table speaks of; nothing of one that cannot be read. */
function namesIn(formula: string): string[] {
  try {
    return pathsOf(parseFormula(formula)).fields.map(each => each.names[0]!)
  } catch (error) {
    if (error instanceof FormulaError) return []
    throw error
  }
}

/** A table without hidden columns, and without what is worked out from them. */
function seenTable(table: CatalogTable, hidden: ReadonlySet<string>): CatalogTable {
  const gone = new Set(hidden)
  const speaksOfGone = (formula: string) => namesIn(formula).some(name => gone.has(name))
  // what is worked out from what is gone is gone too
  for (let before = -1; before !== gone.size;) {
    before = gone.size
    for (const { name, ratio } of table.columns) if (ratio && speaksOfGone(ratio.formula)) gone.add(name)
    for (const { name, formula } of table.calculated ?? []) if (speaksOfGone(formula)) gone.add(name)
  }
  const { calculated, ...rest } = table
  return {
    ...rest,
    columns: table.columns.filter(column => !gone.has(column.name)),
    ...(calculated ? { calculated: calculated.filter(each => !gone.has(each.name)) } : {}),
  }
}

/**
 * A catalog as somebody sees it: hidden columns are absent, and so is what is made of them: relations, calculated fields, ratios, books.
 * @param rows how many records of guarded tables are seen, where that is known: estimates tell of all records
 */
export function seenCatalog(catalog: Catalog, sight: Sight, rows: Readonly<Record<string, number>> = {}): Catalog {
  if (!sight.told) return catalog
  const tables = catalog.tables.map(table => {
    const hidden = sight.hidden.get(table.name)
    const seen = hidden ? seenTable(table, hidden) : table
    return sight.tests.has(table.name) ? { ...seen, rowEstimate: rows[table.name] ?? 0 } : seen
  })
  const isSeen = (side: { table: string; columns: string[] }) => !side.columns.some(column => sight.hidden.get(side.table)?.has(column))
  const { ledger, ...rest } = catalog
  const seen: Catalog = { ...rest, tables, foreignKeys: catalog.foreignKeys.filter(key => isSeen(key.from) && isSeen(key.to)) }
  return ledger && !ledgerLack(ledger, seen) ? { ...seen, ledger } : seen
}
