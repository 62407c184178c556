import { keepSettings } from '../../../sources/keepSettings'

/** Keeps relations, captions, formats, calculated fields and the books with the source, on the version that was seen. */
export default route(async (context, event, app) => {
  const { settings, basedOn } = await bodyOf(event, 'settings')
  return keepSettings(context, app.sources, partOf(event, 'source'), settings, basedOn)
})
