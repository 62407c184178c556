import { readPanel } from '../../core/definition/schema'

/** Keeps a panel as the letterhead of all reports, on the version that was seen. */
export default route(async (context, event, app) => {
  const { panel, basedOn } = await bodyOf(event, 'letterhead')
  return { version: await app.store.keepLetterhead(context, readPanel(panel), basedOn) }
})
