import type { TriedCopy, TriedServer } from '../../../../core/api/intake'
import { triedEdit } from '../../../sources/editSource'
import { foundWords } from '../../../utils/found'
import { saidServer } from '../../../utils/said'

/** What is to be found where a source is to be read from now on; the password that is kept is used where the place is the same. */
export default route(async (context, event, app): Promise<{ server: TriedServer } | { copy: TriedCopy }> => {
  const tried = await triedEdit(context, app.keeping, partOf(event, 'source'), saidServer(await bodyOf(event, 'tryEdit')))
  return 'server' in tried ? tried : { copy: foundWords(tried.copy) }
})
