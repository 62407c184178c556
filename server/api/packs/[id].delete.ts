/** Deletes a pack; its runs stay in the history. */
export default route(async (context, event, app) => {
  const pack = await app.store.packs.find(context, partOf(event, 'id'))
  await app.store.packs.remove(context, pack.id)
  await writeDown(context, event, app, 'pack changed', { what: pack.name, id: pack.id, state: 'deleted' })
  return {}
})
