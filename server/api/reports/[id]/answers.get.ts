export default route((event, app) => app.store.savedAnswers(getRouterParam(event, 'id')!))
