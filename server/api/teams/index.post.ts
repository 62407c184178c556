/** Adds a team. */
export default route(async (context, event, app) => {
  const said = await bodyOf(event, 'team')
  const id = await app.store.teams.add(context, said)
  await writeDown(context, event, app, 'team added', { team: said.name, id, people: said.people, attributes: said.attributes })
  await app.recheck()
  return { id }
})
