import { contentTypes } from '../../runs/output'
import { sendRun } from '../../utils/sendRun'

/**
 * The current rows of a report for a spreadsheet that asks again and again; the address is the only key, so it says nothing but what is
 * wrong with it.
 */
export default route(async (event, app) => {
  const today = new Date().toISOString().slice(0, 10)
  const address = await app.store.useAddress(getRouterParam(event, 'token')!.replace(/\.(csv|json)$/, ''), today)
  const report = await app.store.report(address.reportId, 'published')
  return sendRun(event, app, await app.checkedInput(report.name, report.definition, address.answers), address.output, () => {
    setResponseHeader(event, 'content-type', contentTypes[address.output.format])
    setResponseHeader(event, 'cache-control', 'no-store')
    setResponseHeader(event, 'referrer-policy', 'no-referrer')
  })
})
