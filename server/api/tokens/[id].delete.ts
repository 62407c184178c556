import { StoreError } from '../../store/records'

/** Takes one of one's own tokens back. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  if (!context.signedIn || !(await app.people.tokens.remove(context.signedIn.id, id)))
    throw new StoreError('This token is not there any more.', 404)
  await writeDown(context, event, app, 'token taken back', { token: id })
  return {}
})
