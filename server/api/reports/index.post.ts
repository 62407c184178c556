import type { ReportDefinition } from '../../../core/definition/report'

/** Puts a new report on a shelf. */
export default route(async (context, event, app) => {
  const { name, shelf, definition } = await bodyOf(event, 'create')
  return { id: await app.store.create(context, shelf.trim(), name.trim(), definition as ReportDefinition, false) }
})
