/** Gives a version a name, or takes it away. */
export default route(async (event, app) => {
  const id = getRouterParam(event, 'id')!
  const { name } = await jsonBody<{ name: string }>(event, body => typeof body.name === 'string' && body.name.length <= 100)
  await app.store.nameVersion(id, Number(getRouterParam(event, 'number')) || 0, name)
  return app.store.versions(id)
})
