import { readPanel } from '../../core/definition/schema'

/** Keeps a panel as the letterhead of all reports. */
export default route(async (event, app) => {
  const { panel } = await jsonBody<{ panel: unknown }>(event, body => typeof body.panel === 'object' && body.panel !== null)
  await app.store.keepLetterhead(readPanel(panel))
  return {}
})
