import type { SourceConnection } from '../../../../core/api/intake'
import { keptConnection } from '../../../sources/editSource'

/** What is kept of a source that somebody has added, without anything secret. */
export default route((context, event, app): Promise<SourceConnection> => keptConnection(context, app.keeping, partOf(event, 'source')))
