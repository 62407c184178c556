import { usesOf } from '../../../../core/compose/uses'

/** Every report that reads a table or a column, and where. */
export default route(async (context, event, app) => {
  const { table, column } = askedOf(event)
  const source = app.sources.get(partOf(event, 'source'))
  const { catalog } = await app.sources.catalog(source.id)
  const target = { table: table ?? '', ...(column ? { column } : {}) }
  const reports = (await app.store.library(context)).flatMap(shelf => shelf.reports)
  const found = await Promise.all(
    reports.map(async ({ id, name }) => {
      const { definition } = await app.store.report(context, id)
      const here = definition.dataSets.some(dataSet => app.sources.get(dataSet.source).id === source.id)
      return { id, name, uses: here ? usesOf(definition, catalog, target) : [] }
    }),
  )
  return found.filter(each => each.uses.length)
})
