/** Gives a version a name, or takes it away. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  const { name } = await bodyOf(event, 'nameVersion')
  await app.store.nameVersion(context, id, wholeOf(partOf(event, 'number'), 'a version', 0), name)
  return app.store.versions(context, id)
})
