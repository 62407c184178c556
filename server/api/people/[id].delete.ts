/** Removes a person: they are signed out everywhere at once. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  await app.people.remove(context, id)
  await writeDown(context, event, app, 'person removed', { person: id })
  await app.recheck()
  return {}
})
