/** What the stand-in printer has taken, and whether it has paper. */
export default route(async (_context, _event, app) => ({ paper: await app.printer.hasPaper(), jobs: await app.printer.list() }))
