/** Changes what a person is called, or may do. */
export default route(async (context, event, app) => {
  const [id, change] = [partOf(event, 'id'), await bodyOf(event, 'changePerson')]
  await app.people.change(context, id, change)
  await writeDown(context, event, app, 'person changed', { person: id, ...(change.role ? { role: change.role } : {}) })
  await app.recheck()
  return {}
})
