import { readOutput } from '../../core/api/outputs'

/** A whole run into one file, as the command line asks for it; what it counted stands in a header. */
export default route(async (context, event, app) => {
  const { report: name, answers, output, layout } = await bodyOf(event, 'order')
  const report = await app.store.report(context, name, 'published')
  const input = await app.checkedInput(context, report.name, report.definition, answers, {
    version: `${report.id} ${report.version}`,
    layout,
  })
  return sendRun(context, event, app, input, readOutput(output), result => {
    setResponseHeader(event, 'x-estante-result', encodeURIComponent(JSON.stringify({ ...result, report: report.name })))
    setResponseHeader(event, 'content-type', 'application/octet-stream')
  })
})
