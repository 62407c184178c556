import type { ReportDefinition } from '../../../core/definition/report'

/** Saves a draft that names the version it is based on. */
export default route(async (context, event, app) => {
  const { basedOn, definition } = await bodyOf(event, 'save')
  return { version: await app.store.save(context, partOf(event, 'id'), basedOn, definition as ReportDefinition) }
})
