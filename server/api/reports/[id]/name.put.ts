/** Calls a report otherwise. */
export default route(async (context, event, app) => {
  const { name } = await bodyOf(event, 'renameReport')
  await app.store.shelving.rename(context, partOf(event, 'id'), name)
  return { name }
})
