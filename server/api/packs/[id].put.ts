import { readPack } from '../../../core/pack/definition'

/** Keeps a pack as it was changed. */
export default route(async (context, event, app) => {
  const { name, definition, basedOn } = await bodyOf(event, 'pack')
  const id = partOf(event, 'id')
  const version = await app.store.packs.save(context, id, name, readPack(definition), basedOn)
  await writeDown(context, event, app, 'pack changed', { what: name, id })
  await app.schedule.kept(await app.store.packs.find(context, id))
  return { version }
})
