/** Refresh addresses of a report, without their secrets. */
export default route((context, event, app) => app.store.addresses.list(context, partOf(event, 'id')))
