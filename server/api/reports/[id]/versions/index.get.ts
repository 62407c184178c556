/** The last versions of a report, and all that have a name. */
export default route((event, app) => app.store.versions(getRouterParam(event, 'id')!))
