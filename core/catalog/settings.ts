import { array, boolean, object, string } from 'yup'
import { type Catalog, findTable, type ForeignKey } from './types'

/** What is kept with a source for all its reports. */
export interface SourceSettings {
  /** relations that somebody made by hand or accepted */
  relations: { from: { table: string, columns: string[] }, to: { table: string, columns: string[] }, unique: boolean }[]
  /** captions and formats of columns, by "table.column" */
  columns: Record<string, { caption?: string, format?: string }>
  /** calculated fields, by table */
  calculated: { table: string, name: string, formula: string }[]
}

export const noSettings: SourceSettings = { relations: [], columns: {}, calculated: [] }

const name = string().strict().required().max(200)
const end = object({ table: name, columns: array(name).required().min(1) }).noUnknown()
const shape = object({
  relations: array(object({ from: end, to: end, unique: boolean().strict().required() }).noUnknown()).required(),
  columns: object().required(),
  calculated: array(object({ table: name, name: name.matches(/^[\p{L}_][\p{L}\p{N}_]*$/u, 'a calculated field is called by one word of letters, digits and _'), formula: string().strict().required().max(4000) }).noUnknown()).required(),
}).noUnknown()

/** Checks settings that come from a request. @throws ValidationError of Yup */
export function readSettings(value: unknown): SourceSettings {
  return shape.validateSync(value, { strict: true }) as SourceSettings
}

/** A catalog with what is kept with its source. What speaks of a table or column that is gone is left aside. */
export function applySettings(catalog: Catalog, settings: SourceSettings): Catalog {
  const known = (side: { table: string, columns: string[] }) => side.columns.every(column => findTable(catalog, side.table)?.columns.some(each => each.name === column))
  const kept = settings.relations.filter(relation => known(relation.from) && known(relation.to)).map((relation): ForeignKey => ({
    name: `kept ${relation.from.table}.${relation.from.columns.join(',')} ${relation.to.table}.${relation.to.columns.join(',')}`, from: relation.from, to: relation.to, origin: 'kept', unique: relation.unique,
  }))
  return {
    ...catalog,
    tables: catalog.tables.map(table => ({
      ...table,
      columns: table.columns.map(column => ({ ...column, ...settings.columns[`${table.name}.${column.name}`] })),
      ...(settings.calculated.some(each => each.table === table.name) ? { calculated: settings.calculated.filter(each => each.table === table.name).map(({ name: field, formula }) => ({ name: field, formula })) } : {}),
    })),
    foreignKeys: [...catalog.foreignKeys, ...kept],
  }
}
