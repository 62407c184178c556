import { StoreError } from '../../../store/records'

/** Somebody's word on what was not sent, or may not have been: once more, to another address where one is said, or not. */
export default route(async (context, event, app) => {
  const { again, to } = await bodyOf(event, 'decideDelivery')
  const id = partOf(event, 'id')
  const row = await app.store.deliveries.find(id)
  const run = row && (await app.store.packRuns.find(row.packRunId))
  if (!run || !(await seesPackRun(context, app, run))) throw new StoreError('This is not here any more; run the pack again.', 404)
  if (!(await app.packs.decideDelivery(context, id, again, to)))
    throw new StoreError('This was decided already, or was sent meanwhile; look again.', 409)
  await writeDown(context, event, app, 'pack decided', { id, state: again ? 'once more' : 'dropped' })
  return {}
})
