/** The guards of a source, its tables and the SQL texts that reports read it by. */
export default route((context, event, app) => guardsOf(context, app, partOf(event, 'source')))
