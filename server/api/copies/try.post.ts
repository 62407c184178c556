import type { TriedCopy } from '../../../core/api/intake'
import { triedCopy } from '../../sources/copies/addCopy'
import { foundWords } from '../../utils/found'
import { saidCopy } from '../../utils/said'

/** What is to be found in a database that somebody wants to copy; nothing is kept. */
export default route(async (context, event): Promise<TriedCopy> =>
  foundWords(await triedCopy(context, saidCopy(await bodyOf(event, 'tryCopy')))),
)
