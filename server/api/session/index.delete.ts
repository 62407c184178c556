/** Signs out. */
export default route(async (context, event, app) => {
  const provided = await app.people.sessions.end(tokenOf(event, app))
  await writeDown(context, event, app, 'signed out', {})
  takeToken(event, app, undefined)
  const { value: provider } = await app.store.provider(context)
  const to = provided && provider ? await app.provider.leave(provider, `${originOf(event)}/sign-in`) : undefined
  return to === undefined ? {} : { to }
})
