import type { SwapCheck } from '../../../../../core/api/swap'
import { pointed } from '../../../../sources/swap'

/** What a report lacks in another source under names that somebody chose. */
export default route(async (context, event, app): Promise<SwapCheck> => {
  const { to, names } = await bodyOf(event, 'swap')
  const { definition } = await app.store.report(context, partOf(event, 'id'))
  const { lacks } = await pointed(context, app, definition, to, names)
  return { lacks }
})
