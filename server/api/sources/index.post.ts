import { saidOf } from '../../utils/said'
import type { AddedSource } from '../../../core/api/intake'
import { filesIn } from '../../sources/files/watch'
import { watchable } from '../../sources/files/watchable'

/** A new source of files that were brought before; of a folder that is watched, where that is said. */
export default route(async (context, event, app): Promise<AddedSource> => {
  const { name, files, watch } = await bodyOf(event, 'addSource')
  const folder = watch ? watchable(watch, app.keeping.folder) : undefined
  const watched = folder === undefined ? {} : { watch: { folder, seen: Object.fromEntries(filesIn(folder)) } }
  const given = files.map(each => ({ ...app.brought.get(context, each.id), ...saidOf(each) }))
  const added = await app.addFiles(context, name, given, watched)
  await writeDown(context, event, app, 'source added', { source: name.trim(), id: added.id })
  for (const id of new Set(files.map(each => each.id))) app.brought.drop(context, id)
  if (folder !== undefined) await app.watches.renew()
  return { name: name.trim(), ...added }
})
