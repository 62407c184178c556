import { StoreError } from '../../../store/records'

/** A file that is attached to a letter of the outbox, by its number. */
export default route(async (_context, event, app) => {
  const { letter } = await letterOf(event, app)
  const file = letter.attachments[wholeOf(askedOf(event).number, 'number', 0)]
  if (!file) throw new StoreError('There is no such file at this letter.', 404)
  setResponseHeader(
    event,
    'content-type',
    /^application\/(pdf|zip)$/.test(file.contentType) ? file.contentType : 'application/octet-stream',
  )
  setResponseHeader(event, 'content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(file.filename ?? 'file')}`)
  return file.content
})
