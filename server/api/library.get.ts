/** All shelves with their reports. */
export default route((context, _event, app) => app.store.library(context))
