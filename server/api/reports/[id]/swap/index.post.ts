import { keepSwap } from '../../../../sources/swap'

/** Points a report at another source: its next version. */
export default route(async (context, event, app) => {
  const { to, names, basedOn } = await bodyOf(event, 'keepSwap')
  const { id, definition } = await app.store.report(context, partOf(event, 'id'))
  return keepSwap(context, app, { id, basedOn, definition }, to, names)
})
