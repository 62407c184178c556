/** Puts a source away that somebody has added. */
export default route(async (context, event, app) => {
  await app.putSourceAway(context, partOf(event, 'source'))
  return {}
})
