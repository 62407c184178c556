/** What stands behind a figure of a statement: of a definition as it is being edited, or of a report as it is published. */
export default route(async (context, event, app) => {
  const { statement, line, column, account, ...asked } = await bodyOf(event, 'trace')
  const wanted = { statement, line, column, ...(account === undefined ? {} : { account }) }
  return app.pool.trace(context, await askedInput(context, app, asked), wanted)
})
