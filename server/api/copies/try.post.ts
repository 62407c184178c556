import type { TriedCopy } from '../../../core/api/intake'
import { triedCopy } from '../../sources/copies/addCopy'
import { saidCopy } from '../../utils/said'

/** What is to be found in a database that somebody wants to copy; nothing is kept. */
export default route(async (context, event): Promise<TriedCopy> => {
  const { version, tables, notes } = await triedCopy(context, saidCopy(await bodyOf(event, 'tryCopy')))
  return {
    version,
    notes,
    tables: tables.map(table => ({
      name: table.name,
      ...(table.comment ? { comment: table.comment } : {}),
      columns: table.columns.length,
      rows: table.rows,
      notes: table.notes,
    })),
  }
})
