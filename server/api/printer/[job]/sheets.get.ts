import { open } from 'node:fs/promises'
import { StoreError } from '../../../store/records'

/** The sheets of a job, as they would lie in the tray. */
export default route(async (_context, event, app) => {
  const job = wholeOf(partOf(event, 'job'), 'the job', -1)
  const file = await open(app.printer.sheets(job)).catch(() => {
    throw new StoreError('The printer does not have this job any more.', 404)
  })
  setResponseHeader(event, 'content-type', 'application/pdf')
  setResponseHeader(event, 'content-disposition', `inline; filename="job-${job}.pdf"`)
  return sendFile(event, file)
})
