/** A source’s day and its fiscal calendar. */
export default route(async (context, event, app) => {
  const source = partOf(event, 'source')
  return { today: app.sources.get(source).clock(), calendar: (await app.sources.catalog(context, source)).catalog.calendar }
})
