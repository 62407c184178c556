import type { TriedCopy } from '../../core/api/intake'
import type { Foreign } from '../sources/copies/adapter'
import { whyWhole } from '../sources/copies/changed'

/** What was found in a database that is to be copied, as people see it. */
export function foundWords({ version, tables, notes }: Foreign): TriedCopy {
  return {
    version,
    notes,
    tables: tables.map(table => ({
      name: table.name,
      ...(table.comment ? { comment: table.comment } : {}),
      columns: table.columns.length,
      rows: table.rows,
      growing: table.columns.flatMap(({ name }) => (whyWhole(table, name) === undefined ? [name] : [])),
      notes: table.notes,
    })),
  }
}
