import { outputs } from '../../../core/api/outputs'

/**
 * The current rows of a report for a spreadsheet that asks again and again; the address is the only key, so it says nothing but what is
 * wrong with it.
 */
export default route(async (context, event, app) => {
  const today = new Date().toISOString().slice(0, 10)
  const address = await app.store.useAddress(context, partOf(event, 'token').replace(/\.(csv|json)$/, ''), today)
  const report = await app.store.report(context, address.reportId, 'published')
  return sendRun(
    context,
    event,
    app,
    await app.checkedInput(context, report.name, report.definition, address.answers),
    address.output,
    () => {
      setResponseHeader(event, 'content-type', outputs[address.output.format].contentType)
      setResponseHeader(event, 'cache-control', 'no-store')
      setResponseHeader(event, 'referrer-policy', 'no-referrer')
    },
  )
})
