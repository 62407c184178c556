import { StoreError } from '../../store/records'

/** Leads to the provider that signs people in. */
export default route(async (context, event, app) => {
  const { value: settings } = await app.store.provider(context)
  if (!settings) throw new StoreError('Nobody but Estante itself signs people in here.', 404)
  const asked = askedOf(event).to ?? '/'
  // only to a page of this server
  const to = asked.startsWith('/') && !/^\/[/\\]/.test(asked) ? asked : '/'
  const { url, cookie } = await app.provider.start(settings, `${originOf(event)}/oidc/callback`, to)
  takeUnderway(event, app, cookie)
  await sendRedirect(event, url, 302)
  return null
})
