import { open } from 'node:fs/promises'
import { join } from 'node:path'
import type { MadeFile } from '../../../../packs/toSend'
import { StoreError } from '../../../../store/records'

const types: Record<string, string> = {
  pdf: 'application/pdf',
  zip: 'application/zip',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
}

/** A file of a run of a pack. */
export default route(async (context, event, app) => {
  const run = await packRunOf(context, event, app)
  const made = (run.files as MadeFile[]).find(each => each.file === askedOf(event).file)
  if (!made) throw new StoreError('There is no such file of this run of the pack; run it again.', 404)
  const file = await open(join(app.runFolder.of(run.id), made.file)).catch(() => {
    throw new StoreError('This file is not kept any more; run the pack again.', 404)
  })
  await writeDown(context, event, app, 'file taken', { report: run.name, run: run.id, format: made.format })
  setResponseHeader(event, 'content-type', types[made.name.slice(made.name.lastIndexOf('.') + 1)] ?? 'application/octet-stream')
  setResponseHeader(event, 'content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(made.name)}`)
  return sendFile(event, file)
})
