import { keepSettings } from '../../../sources/keepSettings'

/** Keeps relations, captions, formats, calculated fields and the books with the source, on the version that was seen. */
export default route(async (context, event, app) => {
  const { settings, basedOn } = await bodyOf(event, 'settings')
  const id = partOf(event, 'source')
  const kept = await keepSettings(context, app.sources, id, settings, basedOn)
  await writeDown(context, event, app, 'source changed', { source: app.sources.get(id).name, id, what: 'settings' })
  return kept
})
