/** Letters in the outbox, the newest first. */
export default route(async (_context, event, app) => {
  const { from } = askedOf(event)
  return app.outbox.list(wholeOf(from, 'from', 0), 100)
})
