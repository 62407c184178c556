import { usesElsewhere, usesOf } from '../../../../core/compose/uses'
import { shownAs } from '../../../../core/swap/names'
import { NamedSource } from '../../../sources/namedSource'

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
      const read = definition.dataSets.find(dataSet => app.sources.has(dataSet.source) && app.sources.get(dataSet.source).id === source.id)
      const elsewhere = usesElsewhere(definition, source.id, target)
      if (read) return { id, name, uses: [...usesOf(definition, catalog, target), ...elsewhere] }
      // read under the names of the report: its uses are those of the names
      const named = definition.dataSets
        .map(({ source: each }) => app.sources.has(each) && app.sources.get(each))
        .find(each => each instanceof NamedSource && each.options.of === source.id)
      if (!(named instanceof NamedSource)) return { id, name, uses: elsewhere }
      const { catalog: shown } = await app.sources.catalog(named.id)
      return {
        id,
        name,
        uses: [...elsewhere, ...shownAs(catalog, named.options.names, target).flatMap(each => usesOf(definition, shown, each))],
      }
    }),
  )
  return found.filter(each => each.uses.length)
})
