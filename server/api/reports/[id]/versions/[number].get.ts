/** The definition of one version. */
export default route((event, app) => app.store.version(getRouterParam(event, 'id')!, Number(getRouterParam(event, 'number')) || 0))
