import { StoreError } from '../../store/records'

/** A new password of one's own; all other sessions end. */
export default route(async (context, event, app) => {
  const { before, password } = await bodyOf(event, 'password')
  if (!context.signedIn) throw new StoreError('Nobody signs in here yet.', 409)
  const { signedIn } = context
  await app.guesses.slowed(addressOf(event), signedIn.signIn, () =>
    app.people.changePassword(signedIn, before, password, tokenOf(event, app)),
  )
  await writeDown(context, event, app, 'password changed', {})
  return {}
})
