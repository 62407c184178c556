import { withHead } from '../../../../core/value/envelope'
import { pinnedEnvelope } from '../../../runs/pinned'

/** Rows that the report is designed against, packed as they were pinned; nothing where none are. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  const pinned = await app.store.beside.pinned(context, id, await pinnedSight(context, app, id))
  setResponseHeader(event, 'content-type', 'application/octet-stream')
  if (!pinned) return Buffer.alloc(0)
  return Buffer.from(withHead(pinnedEnvelope(pinned.rows), { answers: pinned.answers, pinnedAt: pinned.pinnedAt.toISOString() }))
})
