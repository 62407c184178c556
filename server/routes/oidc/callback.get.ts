import { StoreError } from '../../store/records'

/**
 * The provider leads back here. The session's cookie is not sent along with what another site has led to: a page of our own leads on.
 */
export default route(async (context, event, app) => {
  const { value: settings } = await app.store.provider(context)
  if (!settings) throw new StoreError('Nobody but Estante itself signs people in here.', 404)
  const cookie = underwayOf(event, app)
  takeUnderway(event, app, undefined)
  try {
    const { claimed, to } = await app.provider.finish(settings, new URL(event.path, originOf(event)), cookie)
    const token = await app.people.signInProvided(claimed, settings, getRequestHeader(event, 'user-agent') ?? '')
    const signedIn = await app.people.sessions.personOf(token)
    await app.store.audit.write({ person: '', ...(signedIn ? { signedIn } : {}) }, 'signed in', { what: settings.name }, addressOf(event))
    takeToken(event, app, token)
    return leadOn(event, to)
  } catch (error) {
    if (!(error instanceof StoreError)) throw error
    await app.refusedTries.add(addressOf(event), settings.name)
    return leadOn(event, `/sign-in?${new URLSearchParams({ said: error.message })}`)
  }
})
