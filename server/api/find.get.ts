import { findReports } from '../store/findReports'

/** Reports whose name, tables or texts hold some words. */
export default route((context, event, app) => findReports(context, app.store, askedOf(event).text ?? ''))
