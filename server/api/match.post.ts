import type { JoinMatch, JoinSample } from '../../core/sql/match'
import type { JoinPair } from '../../core/catalog/types'
import { askSource, wholeAt } from '../runs/ask'

/** How well a join fits, worked out from the data; with `sample` a first look at some rows. */
export default route(async (context, event, app): Promise<JoinMatch | JoinSample> => {
  const { from, to, on, direction, sample, ...asked } = await bodyOf(event, 'match')
  const { rows } = await askSource(context, app, await askedInput(context, app, asked), {
    kind: 'match',
    from,
    to,
    on: on as JoinPair[],
    direction,
    sample,
  })
  if (sample) return { sampled: wholeAt(rows, 0), finding: wholeAt(rows, 1) }
  return { records: wholeAt(rows, 0), finding: wholeAt(rows, 1), orphans: wholeAt(rows, 2), most: wholeAt(rows, 3) }
})
