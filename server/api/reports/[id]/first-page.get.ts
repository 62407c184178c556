import type { Page } from '../../../../core/compose/page'

const known = new Map<string, Promise<Page | null>>()

/** The first page of a report with its parameters' defaults, for its miniature on the shelf. */
export default route(async (context, event, app) => {
  const report = await app.store.report(context, getRouterParam(event, 'id')!)
  const key = `${report.id} ${report.version}`
  let page = known.get(key)
  if (!page) {
    page = app.pool.firstPage(context, await app.input(context, report.name, report.definition, {}))
    known.set(key, page)
    page.catch(() => known.delete(key))
  }
  return page
})
