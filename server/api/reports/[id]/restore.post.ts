/** Brings back a report that was put away. */
export default route((context, event, app) => app.store.shelving.restore(context, partOf(event, 'id')))
