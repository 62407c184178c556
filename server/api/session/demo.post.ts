import { StoreError } from '../../store/records'

/** Signs one of the demo's invented people in with a click: in a folder that came with the demo, and from this machine only. */
export default route(async (_, event, app) => {
  const { person } = await bodyOf(event, 'demoSignIn')
  if (!app.demoPeople || !fromThisMachine(event)) throw new StoreError('There is nothing at this address of Estante; copy it whole.', 404)
  const token = await app.demoPeople.signIn(person, getRequestHeader(event, 'user-agent') ?? '')
  const signedIn = await app.people.sessions.personOf(token)
  await app.store.audit.write({ person: '', ...(signedIn ? { signedIn } : {}) }, 'signed in', { what: 'with a click' }, addressOf(event))
  takeToken(event, app, token)
  return {}
})
