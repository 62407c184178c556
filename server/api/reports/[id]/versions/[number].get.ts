/** The definition of one version. */
export default route((context, event, app) =>
  app.store.version(context, partOf(event, 'id'), wholeOf(partOf(event, 'number'), 'a version', 0)),
)
