export default route((event, app) => app.catalog(getQuery(event).again === '1'))
