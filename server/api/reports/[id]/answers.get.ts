/** Answers of the report that are kept under a name. */
export default route((context, event, app) => app.store.savedAnswers(context, partOf(event, 'id')))
