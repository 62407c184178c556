/** The definition of one version. */
export default route((context, event, app) =>
  app.store.version(context, getRouterParam(event, 'id')!, Number(getRouterParam(event, 'number')) || 0),
)
