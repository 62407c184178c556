/** What was published of a report, when, by whom and what had changed; and what publishing the draft would change. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  return { history: await app.store.publishing.history(context, id), changes: await app.store.publishing.changes(context, id) }
})
