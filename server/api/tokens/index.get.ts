/** One's own tokens, without their secrets. */
export default route((context, _event, app) => (context.signedIn ? app.people.tokens.list(context.signedIn.id) : []))
