/** Copies a report beside itself, with its pinned rows and kept answers. */
export default route((context, event, app) => app.store.shelving.copy(context, partOf(event, 'id')))
