import { StoreError } from '../../store/records'

/** Signs in by name and password. */
export default route(async (_, event, app) => {
  const { name, password } = await bodyOf(event, 'signIn')
  const address = addressOf(event)
  const about = getRequestHeader(event, 'user-agent') ?? ''
  try {
    const token = await app.guesses.slowed(address, name, () => app.people.signIn(name, password, about))
    const signedIn = await app.people.sessions.personOf(token)
    await app.store.audit.write({ person: '', ...(signedIn ? { signedIn } : {}) }, 'signed in', {}, address)
    takeToken(event, app, token)
    return {}
  } catch (error) {
    // what was typed as a name may be a password
    if (error instanceof StoreError && error.status === 401)
      await app.store.audit.entry('sign-in refused', {}, { id: '', name: '', address })
    throw error
  }
})
