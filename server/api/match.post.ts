import type { JoinPair } from '../../core/catalog/types'
import { askSource, wholeAt } from '../runs/ask'

/** How well a join fits, worked out from the data. */
export default route(async (context, event, app) => {
  const { from, to, on, direction, ...asked } = await bodyOf(event, 'match')
  const { rows } = await askSource(context, app, await askedInput(context, app, asked), {
    kind: 'match',
    from,
    to,
    on: on as JoinPair[],
    direction,
  })
  const [records, finding, orphans, most] = [0, 1, 2, 3].map(column => wholeAt(rows, column))
  return { records, finding, orphans, most }
})
