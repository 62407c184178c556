/** What stands on a report and stops where it is put away. */
export default route((context, event, app) => app.store.shelving.uses(context, partOf(event, 'id')))
