/** Runs a pack; dry, nothing of it is sent. */
export default route(async (context, event, app) => {
  const { answers, dry } = await bodyOf(event, 'runPack')
  const pack = await app.store.packs.find(context, partOf(event, 'id'))
  const id = (await app.packs.start(context, pack, { answers, dry }))!
  await writeDown(context, event, app, 'pack run', { what: pack.name, id: pack.id, run: id, answers, ...(dry ? { state: 'dry' } : {}) })
  return { id }
})
