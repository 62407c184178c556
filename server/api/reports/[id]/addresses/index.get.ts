/** Refresh addresses of a report, without their secrets. */
export default route((event, app) => app.store.addresses(getRouterParam(event, 'id')!))
