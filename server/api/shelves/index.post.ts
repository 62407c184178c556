/** A new shelf. */
export default route(async (context, event, app) => app.store.shelving.addShelf(context, (await bodyOf(event, 'addShelf')).name))
