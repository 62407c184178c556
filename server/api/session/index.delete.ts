/** Signs out. */
export default route(async (context, event, app) => {
  await app.people.sessions.end(tokenOf(event, app))
  await writeDown(context, event, app, 'signed out', {})
  takeToken(event, app, undefined)
  return {}
})
