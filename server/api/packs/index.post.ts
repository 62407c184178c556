import { newPack, readPack } from '../../../core/pack/definition'

/** Makes a pack; with no reports in it yet, or with what another has. */
export default route(async (context, event, app) => {
  const { name, definition } = await bodyOf(event, 'newPack')
  const id = await app.store.packs.add(context, name, definition ? readPack(definition) : newPack())
  await writeDown(context, event, app, 'pack changed', { what: name, id })
  await app.schedule.kept(await app.store.packs.find(context, id))
  return { id }
})
