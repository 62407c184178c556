/** A source’s day and its fiscal calendar. */
export default route(async (_context, event, app) => {
  const source = partOf(event, 'source')
  return { today: app.sources.get(source).clock(), calendar: (await app.sources.catalog(source)).catalog.calendar }
})
