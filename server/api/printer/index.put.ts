/** Takes the paper of the stand-in printer away, or puts some in. */
export default route(async (_context, event, app) => {
  await app.printer.paper((await bodyOf(event, 'paper')).paper)
  return {}
})
