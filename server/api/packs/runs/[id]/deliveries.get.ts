import type { DeliveryPage, DeliveryState } from '../../../../../core/api/packs'
import { StoreError } from '../../../../store/records'

const states: readonly DeliveryState[] = ['ready', 'sending', 'sent', 'refused', 'uncertain', 'unaddressed', 'dropped']
const atOnce = 100

/** Some of what goes out of a run of a pack: those in a state, or all, a hundred at a time. */
export default route(async (context, event, app): Promise<DeliveryPage> => {
  const run = await packRunOf(context, event, app)
  const { state, from } = askedOf(event)
  const wanted = states.find(each => each === state)
  if (state && !wanted) throw new StoreError(`“${state.slice(0, 40)}” is no state of what goes out; choose one of the list.`, 422)
  const counts = await app.store.deliveries.counts(run.id)
  const all = counts.filter(each => !wanted || each.state === wanted).reduce((sum, each) => sum + each.count, 0)
  const rows = await app.store.deliveries.page(run.id, wanted, wholeOf(from, 'from', 0), atOnce)
  return { all, deliveries: rows.map(deliveryInfo) }
})
