import { proposeSwap } from '../../../../sources/swap'

/** What a report needs, and what is proposed for it in another source. */
export default route(async (context, event, app) => {
  const { to } = await bodyOf(event, 'proposeSwap')
  const { definition } = await app.store.report(context, partOf(event, 'id'))
  return proposeSwap(context, app, definition, to)
})
