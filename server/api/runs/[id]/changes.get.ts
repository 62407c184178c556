import { StoreError } from '../../../store/records'

/** What a run differs in from an earlier one of the same report: rows new, gone and changed. */
export default route(async (context, event, app) => {
  const now = await runOf(context, event, app)
  const before = await app.runs.get(context, askedOf(event).since ?? '')
  if (!before) throw new StoreError('The earlier run is not kept any more; choose another.', 404)
  if (before.report !== now.report) throw new StoreError('These are runs of two reports; choose two of the same report.', 409)
  if (before.state !== 'done' || now.state !== 'done')
    throw new StoreError('Only runs that are done can be compared; wait until both are.', 409)
  return app.runs.files.changes(context, before, now)
})
