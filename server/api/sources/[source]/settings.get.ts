/** What is kept with a source, and its version. */
export default route((context, event, app) => app.store.settings(context, app.sources.get(partOf(event, 'source')).id))
