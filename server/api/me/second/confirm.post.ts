/** One's second factor counts from now on, since a code of it is right; its recovery codes are told once. */
export default route(async (context, event, app) => {
  const { id } = ownPerson(context, event)
  const { code } = await bodyOf(event, 'code')
  const codes = await app.guesses.slowed(addressOf(event), `code ${id}`, () => app.people.second.confirm(id, code))
  await writeDown(context, event, app, 'second factor made', {})
  return { codes }
})
