import type { AddedSource } from '../../../core/api/intake'
import { saidCopy } from '../../utils/said'

/** A new source that holds a copy of another database. It answers when the copy is there; whoever goes away gives it up. */
export default route(async (context, event, app): Promise<AddedSource> => {
  const { name, ...said } = await bodyOf(event, 'addCopy')
  const added = await app.copies.add(context, name, saidCopy(said))
  await writeDown(context, event, app, 'source added', { source: name.trim(), id: added.id })
  return { name: name.trim(), ...added }
})
