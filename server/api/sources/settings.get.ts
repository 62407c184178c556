export default route((_event, app) => app.settings())
