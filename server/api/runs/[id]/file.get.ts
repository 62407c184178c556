import { reportFileName } from '../../../../core/pack/reportFileName'
import { extensionOf, outputs, readOutput, runFormats } from '../../../../core/api/outputs'
import type { FileOutput } from '../../../runs/runRecord'
import { StoreError } from '../../../store/records'

/**
 * A finished run as a file: its pages as they were, or its rows read again with the same answers. It is made once and kept with the run.
 */
export default route(async (context, event, app) => {
  const run = await runOf(context, event, app)
  const output = readOutput(askedOf(event), runFormats) as FileOutput
  if (run.state !== 'done' || ((output.format === 'pdf' || output.format === 'zip') && run.places.length < 2))
    throw new StoreError('There is no file before the run is done and has pages.', 409)
  const file = await app.runs.files.written(context, run, output)
  await writeDown(context, event, app, 'file taken', { report: run.input.name, id: run.report, run: run.id, format: output.format })
  const { definition, answers, today, catalog, labels } = run.input
  const name = reportFileName(run.input.name, definition, answers, {
    today,
    ...(catalog.calendar ? { calendar: catalog.calendar } : {}),
    ...(labels ? { labels } : {}),
  })
  setResponseHeader(event, 'content-type', outputs[output.format].contentType)
  setResponseHeader(
    event,
    'content-disposition',
    `${askedOf(event).show === 'page' && output.format === 'pdf' ? 'inline' : 'attachment'}; ` +
      `filename*=UTF-8''${encodeURIComponent(`${name}.${extensionOf(output.format)}`)}`,
  )
  // what a reader sees of a report is shown as a file, never run as a page of this server
  if (output.format === 'html') setResponseHeader(event, 'content-security-policy', 'sandbox')
  return sendFile(event, file)
})
