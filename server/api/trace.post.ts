import { StoreError } from '../store/records'

/**
 * What stands behind a figure of a statement: of a run that is kept, of a definition as it is being edited, or of a report as it is
 * published.
 */
export default route(async (context, event, app) => {
  const { statement, line, column, account, run: id, ...asked } = await bodyOf(event, 'trace')
  const wanted = { statement, line, column, ...(account === undefined ? {} : { account }) }
  if (id === undefined) return app.pool.trace(context, await askedInput(context, app, asked), wanted)
  const run = await app.runs.get(context, id)
  if (!run) throw new StoreError('This run is not kept any more; run the report again.', 404)
  if (run.state !== 'done') throw new StoreError('A figure can be traced when its run is done; wait until it is.', 409)
  return app.runs.files.trace(context, run, wanted)
})
