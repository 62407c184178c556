/** Removes a team; its people stay. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  const team = await app.store.teams.find(context, id)
  await app.store.teams.remove(context, id)
  await writeDown(context, event, app, 'team removed', { team: team?.name, id })
  await app.recheck()
  return {}
})
