/** Where one is signed in. */
export default route((context, event, app) => (context.signedIn ? app.people.sessions.list(context.signedIn.id, tokenOf(event, app)) : []))
