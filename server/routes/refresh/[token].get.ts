import { outputs } from '../../../core/api/outputs'
import type { Context } from '../../access/context'
import type { Estante } from '../../estante'
import { type RefreshAddress, StoreError } from '../../store/records'

/**
 * The current rows of a report for a spreadsheet that asks again and again; the address is the only key, so it says nothing but what is
 * wrong with it.
 */
export default route(async (context, event, app) => {
  const today = new Date().toISOString().slice(0, 10)
  const address = await app.store.addresses.use(context, partOf(event, 'token').replace(/\.(csv|json)$/, ''), today)
  const reader = await readerOf(context, app, address)
  const report = await app.store.report(reader, address.reportId, 'published')
  return sendRun(
    reader,
    event,
    app,
    await app.checkedInput(reader, report.name, report.definition, address.answers),
    address.output,
    () => {
      setResponseHeader(event, 'content-type', outputs[address.output.format].contentType)
      setResponseHeader(event, 'cache-control', 'no-store')
      setResponseHeader(event, 'referrer-policy', 'no-referrer')
    },
  )
})

/**
 * In whose name an address reads: that of whoever made it, with what they see now. One from before anybody could sign in is nobody's, and
 * does not answer any more once somebody can. @throws StoreError
 */
async function readerOf(context: Context, app: Estante, { personId }: RefreshAddress): Promise<Context> {
  if (!(await app.people.any())) return context
  const signedIn = personId === null ? undefined : await app.people.find(personId)
  if (!signedIn) throw new StoreError('Whoever made this refresh address is not here any more; ask the report’s author for a new one.', 410)
  return { ...context, person: signedIn.id, signedIn }
}
