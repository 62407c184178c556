/** Says anew what a team is called, who is in it and what guards may ask of it. */
export default route(async (context, event, app) => {
  const [id, said] = [partOf(event, 'id'), await bodyOf(event, 'team')]
  await app.store.teams.change(context, id, said)
  await writeDown(context, event, app, 'team changed', { team: said.name, id, people: said.people, attributes: said.attributes })
  await app.recheck()
  return {}
})
