/** Adds a person. */
export default route(async (context, event, app) => {
  const person = await bodyOf(event, 'person')
  const id = await app.people.add(context, person)
  await writeDown(context, event, app, 'person added', { person: id, role: person.role })
  return { id }
})
