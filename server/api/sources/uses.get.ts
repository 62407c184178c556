import { usesOf } from '../../../core/compose/uses'

/** Every report that reads a table or a column, and where. */
export default route(async (event, app) => {
  const { table, column } = getQuery(event)
  const catalog = await app.catalog()
  const target = { table: String(table), ...(typeof column === 'string' && column ? { column } : {}) }
  const reports = (await app.store.library()).flatMap(shelf => shelf.reports)
  const found = await Promise.all(
    reports.map(async ({ id, name }) => ({ id, name, uses: usesOf((await app.store.report(id)).definition, catalog, target) })),
  )
  return found.filter(each => each.uses.length)
})
