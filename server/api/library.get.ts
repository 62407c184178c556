export default route((_event, app) => app.store.library())
