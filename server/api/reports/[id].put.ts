import type { ReportDefinition } from '../../../core/definition/report'

/** Saves a draft that names the version it is based on. */
export default route(async (context, event, app) => {
  const { basedOn, definition } = await bodyOf(event, 'save')
  const id = partOf(event, 'id')
  const version = await app.store.save(context, id, basedOn, definition as ReportDefinition)
  await writeDown(context, event, app, 'report saved', { report: (await app.store.draft(context, id))?.name, id, version })
  return { version }
})
