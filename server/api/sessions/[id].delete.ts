import { StoreError } from '../../store/records'

/** Ends one of one's own sessions. */
export default route(async (context, event, app) => {
  if (!context.signedIn || !(await app.people.sessions.endOne(context.signedIn.id, partOf(event, 'id'))))
    throw new StoreError('This session has ended already.', 404)
  await writeDown(context, event, app, 'session ended', {})
  return {}
})
