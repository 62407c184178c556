/** Answers of the report that are kept under a name. */
export default route((context, event, app) => app.store.beside.savedAnswers(context, partOf(event, 'id')))
