/** All who can sign in. */
export default route((context, _event, app) => app.people.list(context))
