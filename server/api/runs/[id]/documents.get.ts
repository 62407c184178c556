import { createReadStream } from 'node:fs'
import { StoreError } from '../../../store/store'

/** Each document of a finished run as a PDF of its own, named as the layout says, in one ZIP file. */
export default route(async (event, app) => {
  const run = runOf(event, app)
  if (run.state !== 'done' || run.places.length < 2) throw new StoreError('There are no documents before the run is done and has pages.', 409)
  const file = await app.runs.documents(run)
  setResponseHeader(event, 'content-type', 'application/zip')
  setResponseHeader(event, 'content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(`${run.input.name}.zip`)}`)
  return sendStream(event, createReadStream(file))
})
