import { ownContext } from '../../../access/context'

/** The first page of a report with its parameters' defaults, for its miniature on the shelf. */
export default route(async (context, event, app) => {
  const report = await app.store.report(context, partOf(event, 'id'))
  // it is made for all who look at the shelf, whoever asked first
  return app.miniatures.page(report.id, report.version, async () =>
    app.pool.firstPage(ownContext, await app.input(ownContext, report.name, report.definition, {})),
  )
})
