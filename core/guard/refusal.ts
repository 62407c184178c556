import { isKeyColumn } from '../catalog/relations'
import { type CatalogTable, findTable } from '../catalog/types'
import type { Catalog } from '../books/catalog'
import type { Guard } from './guards'
import { guardFault } from './sight'

/** Why a guard cannot be kept, in one sentence; nothing where it can. @param teams the ids that there are */
export function guardRefusal(each: Guard, catalog: Catalog, teams: ReadonlySet<string>, all: readonly Guard[]): string | undefined {
  if (!teams.has(each.team)) return 'A guard is for a team that is not there any more; choose another.'
  const table = findTable(catalog, each.table)
  if (!table) return `There is no table “${each.table}” in the source; choose another for the guard.`
  if (each.is === 'hidden') return hiddenRefusal(catalog, table, each.columns)
  return guardFault(each, catalog, all)
}

/** Keys cannot be hidden: records are found and joined by them. */
function hiddenRefusal(catalog: Catalog, table: CatalogTable, columns: readonly string[]): string | undefined {
  for (const column of columns) {
    if (!table.columns.some(known => known.name === column)) return `“${table.name}” has no column “${column}”; choose another to hide.`
    const isSought = catalog.foreignKeys.some(({ to }) => to.table === table.name && to.columns.includes(column))
    if (isSought || isKeyColumn(catalog, table.name, column))
      return `“${column}” of “${table.name}” is a key, by which records are found; it cannot be hidden.`
  }
  return undefined
}
