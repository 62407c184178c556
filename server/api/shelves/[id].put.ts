/** Calls a shelf otherwise, or moves it up or down. */
export default route(async (context, event, app) => {
  const [id, change] = [partOf(event, 'id'), await bodyOf(event, 'changeShelf')]
  await app.store.shelving.changeShelf(context, id, change)
  if (change.team !== undefined || change.release !== undefined) {
    await writeDown(context, event, app, 'shelf changed', { shelf: id, team: change.team, release: change.release })
    await app.recheck()
  }
  return { changed: true }
})
