import { valueQuery } from '../../core/sql/search'
import { findTable } from '../../core/catalog/types'
import { valueAt } from '../../core/value/columns'
import { sourceSchema } from '../estante'

interface Body {
  value: string
  tables: string[]
}

/** Which columns of some tables hold a value, and in how many rows. */
export default route(async (event, app) => {
  const { value, tables } = await jsonBody<Body>(
    event,
    body => typeof body.value === 'string' && body.value.trim() !== '' && Array.isArray(body.tables),
  )
  const catalog = await app.catalog()
  const hits: { table: string; column: string; rows: number }[] = []
  const stop = new AbortController()
  event.node.res.on('close', () => stop.abort(new Error('The reader went away.')))
  for (const name of tables.slice(0, 50)) {
    const table = findTable(catalog, name)
    if (!table) continue
    const query = valueQuery(sourceSchema, table, value)
    const rows = await app.engine.query(query, { client: 'search', timeLimit: 10_000, signal: stop.signal })
    query.columns.forEach((column, index) => {
      const { units } = valueAt(rows.columns[index]!, 0) as { units: number }
      if (units) hits.push({ table: name, column: column.path, rows: units })
    })
  }
  return hits
})
