import { StoreError } from '../../store/records'

/** Makes a token for another program; it is told only in this answer. A token makes no others. */
export default route(async (context, event, app) => {
  const said = await bodyOf(event, 'token')
  if (!context.signedIn) throw new StoreError('Nobody signs in here yet; no token is needed.', 409)
  if (getRequestHeader(event, 'authorization') !== undefined) throw new StoreError('A token makes no others; sign in.', 403)
  const made = await app.people.tokens.add(context.signedIn, said)
  await writeDown(context, event, app, 'token made', { token: made.id, scope: said.scope, until: said.until })
  return made
})
