/** The last versions of a report, and all that have a name. */
export default route((context, event, app) => app.store.versions(context, partOf(event, 'id')))
