import type { RequestBody } from '../../core/api/requests'
import type { ColumnForm } from '../../core/intake/cells'
import type { Said } from '../sources/files/take'

/** What a request says of a file. */
export function saidOf({ table, titles, forms }: Pick<RequestBody<'said'>, 'table' | 'titles' | 'forms'>): Said {
  return {
    ...(table ? { table } : {}),
    ...(titles === undefined ? {} : { titles }),
    ...(forms ? { forms: forms as Record<string, ColumnForm> } : {}),
  }
}
