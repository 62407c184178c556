import type { CopyState } from '../../../../core/api/intake'

/** The generations of a copy, and what its last refresh came to. */
export default route((context, event, app): Promise<CopyState> => app.copies.generations(context, partOf(event, 'source')))
