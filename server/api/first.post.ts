import { StoreError } from '../store/records'

/** Makes the first administrator, with the key of the link that stands in the terminal, and signs them in. */
export default route(async (context, event, app) => {
  const { key, ...first } = await bodyOf(event, 'first')
  if (!app.firstLink.is(key)) throw new StoreError('This link is not the one that Estante printed when it started; copy that one.', 403)
  const id = await app.people.addFirst(context, first)
  const token = await app.people.sessions.begin(id, getRequestHeader(event, 'user-agent') ?? '')
  const signedIn = await app.people.sessions.personOf(token)
  const own = { ...context, ...(signedIn ? { signedIn } : {}) }
  await writeDown(own, event, app, 'person added', { person: id, role: 'administrator' })
  takeToken(event, app, token)
  return {}
})
