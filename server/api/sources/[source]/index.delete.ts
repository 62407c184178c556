/** Puts a source away that somebody has added. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'source')
  const { name } = app.sources.get(id)
  await app.putSourceAway(context, id)
  await writeDown(context, event, app, 'source let go', { source: name, id })
  return {}
})
