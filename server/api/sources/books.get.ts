import { booksOf } from '../../utils/books'

/** Where the source keeps its books, as said or as found, and how they fare when checked against the data. */
export default route(async (_event, app) => booksOf(app, await app.settings(), true))
