import { createReadStream } from 'node:fs'
import { StoreError } from '../../../store/store'

/** The pages of a finished run as a PDF. */
export default route(async (event, app) => {
  const run = runOf(event, app)
  if (run.state !== 'done' || run.places.length < 2) throw new StoreError('There is no PDF before the run is done and has pages.', 409)
  const file = await app.runs.pdf(run)
  setResponseHeader(event, 'content-type', 'application/pdf')
  setResponseHeader(event, 'content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(`${run.input.name}.pdf`)}`)
  return sendStream(event, createReadStream(file))
})
