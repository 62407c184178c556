import { bound } from '../../../core/sql/query'
import { sql } from 'drizzle-orm'
import { findTable } from '../../../core/catalog/types'
import { packLevel } from '../../../core/read/pinned'
import { sourceSchema } from '../../estante'
import { StoreError } from '../../store/store'

/** The first rows of a table, as they come. */
export default route(async (event, app) => {
  const name = decodeURIComponent(getRouterParam(event, 'name')!)
  const table = findTable(await app.catalog(), name)
  if (!table) throw new StoreError(`There is no table “${name}” in the source.`, 404)
  const columns = table.columns.map(column => ({
    path: column.name,
    type: column.type,
    ...(column.scale === undefined ? {} : { scale: column.scale }),
  }))
  const list = table.columns.map(column =>
    column.type === 'text' ? sql`${sql.identifier(column.name)}::text` : sql`${sql.identifier(column.name)}`,
  )
  const { text, values: params } = bound(
    sql`select ${sql.join(list, sql`, `)} from ${sql.identifier(sourceSchema)}.${sql.identifier(name)} limit 30`,
  )
  const rows = await app.engine.query({ text, values: params, columns }, { client: 'tables', timeLimit: 10_000 })
  return packLevel({
    count: rows.count,
    starts: Int32Array.from([0, rows.count]),
    columns: Object.fromEntries(columns.map((column, index) => [column.path, rows.columns[index]!])),
  })
})
