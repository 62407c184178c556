/** Takes in a definition from a file as a new report. */
export default route(async (context, event, app) => {
  const { name, shelf, text } = await bodyOf(event, 'import')
  return { id: await app.store.create(context, shelf, name, await app.planner.parse(context, text), false) }
})
