import { findTable } from '../../../../core/catalog/types'
import { valueQuery } from '../../../../core/sql/search'
import { valueAt } from '../../../../core/value/columns'

/** Which columns of some tables hold a value, and in how many rows. */
export default route(async (context, event, app) => {
  const source = partOf(event, 'source')
  const { value, tables } = await bodyOf(event, 'search')
  const { catalog } = await app.sources.catalog(context, source)
  return app.sources.reading(context, source, async (snapshot, { schema }) => {
    const hits: { table: string; column: string; rows: number }[] = []
    for (const name of tables.slice(0, 50)) {
      const table = findTable(catalog, name)
      if (!table) continue
      const query = valueQuery(schema, table, value)
      const rows = await snapshot.query(query, { timeLimit: 10_000 })
      query.columns.forEach((column, index) => {
        const { units } = valueAt(rows.columns[index]!, 0) as { units: number }
        if (units) hits.push({ table: name, column: column.path, rows: units })
      })
    }
    return hits
  })
})
