/** Puts a report on a shelf, before another one or at its end. */
export default route(async (context, event, app) => {
  const { shelf, before } = await bodyOf(event, 'placeReport')
  await app.store.shelving.place(context, partOf(event, 'id'), shelf, before)
  return { placed: true }
})
