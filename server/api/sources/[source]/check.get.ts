import { checkSource } from '../../../sources/checkSource'

/** What a source holds, and what reports over it lack; its tables are read anew. */
export default route((context, event, app) => checkSource(context, app, partOf(event, 'source')))
