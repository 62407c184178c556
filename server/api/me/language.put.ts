import { StoreError } from '../../store/records'

/** The language of the interface that one wants. */
export default route(async (context, event, app) => {
  const { language } = await bodyOf(event, 'language')
  if (!context.signedIn) throw new StoreError('Nobody signs in here yet.', 409)
  await app.people.speak(context.signedIn, language)
  return {}
})
