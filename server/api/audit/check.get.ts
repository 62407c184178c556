/** Is the log whole, as it was written? */
export default route((context, _event, app) => app.store.audit.check(context))
