import { StoreError } from '../../../store/records'

/** The records behind a figure on a page of a finished run, out of the rows that the run has kept. */
export default route(async (context, event, app) => {
  const run = await runOf(context, event, app)
  const { row, ...place } = await bodyOf(event, 'behind')
  if (run.state !== 'done') throw new StoreError('A figure can be traced when its run is done; wait until it is.', 409)
  return app.runs.files.behind(context, run, { ...place, ...(row === undefined ? {} : { rowId: row }) })
})
