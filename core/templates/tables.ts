import type { Catalog } from '../books/catalog'
import type { PlainColumn } from '../definition/upgrade'
import type { LevelInfo } from '../formula/typed'
import { draftColumns, draftFields, fitting, inOrder } from './drafts/fields'
import { Tables } from './drafts/tables'

/** Columns of a new table of a level: ticked fields, or those that say most, as many as are asked for and fit a width in points. */
export function tableColumns(catalog: Catalog, level: LevelInfo, most: number, width = 505): PlainColumn[] {
  const tables = new Tables(catalog)
  const fields = draftFields(tables, level)
  const kept = fitting(tables, [...fields].sort((a, b) => b.worth - a.worth).slice(0, most), width, () => false)
  return draftColumns(tables, inOrder(kept, fields), () => false)
}
