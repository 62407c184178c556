import { sql } from 'drizzle-orm'
import { findTable } from '../../../../../core/catalog/types'
import { packEnvelope } from '../../../../../core/value/envelope'
import { StoreError } from '../../../../store/records'
import { bound } from '../../../../../core/catalog/dialect'

/** The first rows of a table, as they come, packed: see packEnvelope. */
export default route(async (context, event, app) => {
  const [source, name] = [partOf(event, 'source'), partOf(event, 'name')]
  const table = findTable((await app.sources.catalog(context, source)).catalog, name)
  if (!table) throw new StoreError(`There is no table “${name}” in the source.`, 404)
  const columns = table.columns.map(column => ({
    path: column.name,
    type: column.type,
    ...(column.scale === undefined ? {} : { scale: column.scale }),
  }))
  const list = table.columns.map(column =>
    column.type === 'text' ? sql`${sql.identifier(column.name)}::text` : sql`${sql.identifier(column.name)}`,
  )
  const rows = await app.sources.reading(context, source, (snapshot, { schema }) => {
    const statement = sql`select ${sql.join(list, sql`, `)} from ${sql.identifier(schema)}.${sql.identifier(name)} limit 30`
    return snapshot.query({ ...bound(statement), columns }, { timeLimit: 10_000 })
  })
  setResponseHeader(event, 'content-type', 'application/octet-stream')
  const named = Object.fromEntries(columns.map((column, index) => [column.path, rows.columns[index]!]))
  return Buffer.from(packEnvelope({}, [{ count: rows.count, starts: Int32Array.of(0, rows.count), columns: named }]))
})
