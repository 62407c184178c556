import { ownContext } from '../../access/context'
import { StoreError } from '../../store/records'

/** Signs in by name and password. */
export default route(async (_, event, app) => {
  const { name, password, code } = await bodyOf(event, 'signIn')
  const { value: provider } = await app.store.provider(ownContext)
  if (provider?.only) throw new StoreError(`Nobody signs in by password here; sign in with ${provider.name}.`, 403)
  const address = addressOf(event)
  const about = getRequestHeader(event, 'user-agent') ?? ''
  try {
    const token = await app.guesses.slowed(address, name, () => app.people.signIn(name, password, about, code))
    if (token === undefined) return { second: true }
    const signedIn = await app.people.sessions.personOf(token)
    await app.store.audit.write({ person: '', ...(signedIn ? { signedIn } : {}) }, 'signed in', {}, address)
    takeToken(event, app, token)
    return {}
  } catch (error) {
    // what was typed as a name may be a password
    if (error instanceof StoreError && error.status === 401) await app.refusedTries.add(address)
    throw error
  }
})
