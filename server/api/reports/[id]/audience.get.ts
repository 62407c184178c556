/** Who runs and who edits a report. */
export default route((context, event, app) => app.store.publishing.audience(context, partOf(event, 'id')))
