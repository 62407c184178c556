import { Readable } from 'node:stream'
import { sendStream } from 'h3'
import { auditFile } from '../../access/auditFile'
import { auditSearchOf } from '../../utils/auditSearch'

/** The log, or what is looked for in it, as CSV or as a line of JSON for each entry; the newest first. */
export default route((context, event, app) => {
  const asked = askedOf(event)
  const format = asked.format === 'jsonl' ? 'jsonl' : 'csv'
  setResponseHeader(event, 'content-type', format === 'csv' ? 'text/csv; charset=utf-8' : 'application/jsonl; charset=utf-8')
  setResponseHeader(event, 'content-disposition', `attachment; filename="estante-log.${format}"`)
  return sendStream(event, Readable.from(auditFile(context, app.store.audit, auditSearchOf(asked), format)))
})
