import { saidOf } from '../../utils/said'
import type { AddedSource } from '../../../core/api/intake'

/** A new source of files that were brought before. */
export default route(async (context, event, app): Promise<AddedSource> => {
  const { name, files } = await bodyOf(event, 'addSource')
  const given = files.map(each => ({ ...app.brought.get(context, each.id), ...saidOf(each) }))
  const added = await app.addFiles(context, name, given)
  for (const id of new Set(files.map(each => each.id))) app.brought.drop(context, id)
  return { name: name.trim(), ...added }
})
