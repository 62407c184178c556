import { StoreError } from '../../../store/records'

/** Takes one's second factor away, by the password and a code of it. */
export default route(async (context, event, app) => {
  const { id } = ownPerson(context, event)
  const { password, code } = await bodyOf(event, 'leaveSecond')
  await app.guesses.slowed(addressOf(event), `code ${id}`, async () => {
    if (!(await app.people.isPasswordOf(id, password)) || !(await app.people.second.use(id, code)))
      throw new StoreError('The password or the code is not right; try again.', 401)
  })
  await app.people.second.remove(id)
  await writeDown(context, event, app, 'second factor taken away', {})
  return {}
})
