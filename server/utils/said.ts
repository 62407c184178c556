import type { RequestBody } from '../../core/api/requests'
import type { ColumnForm } from '../../core/intake/cells'
import type { SaidCopy } from '../sources/copies/addCopy'
import type { Said } from '../sources/files/take'
import type { SaidServer } from '../sources/postgres/addServer'

/** What a request says of a file. */
export function saidOf({ table, titles, titleLine, without, sheet, forms }: RequestBody<'said'>): Said & { sheet?: string } {
  return {
    ...(table ? { table } : {}),
    ...(titles === undefined ? {} : { titles }),
    ...(titleLine === undefined ? {} : { titleLine }),
    ...(without?.length ? { without } : {}),
    ...(sheet ? { sheet } : {}),
    ...(forms ? { forms: forms as Record<string, ColumnForm> } : {}),
  }
}

/** What a request says of a server; a field left empty is none. */
export function saidServer({ url, password, schemas, zone, day, evenSuperuser }: RequestBody<'tryServer'>): SaidServer {
  return {
    url,
    ...(password ? { password } : {}),
    ...(schemas?.length ? { schemas } : {}),
    ...(zone ? { zone } : {}),
    ...(day ? { day } : {}),
    ...(evenSuperuser ? { evenSuperuser } : {}),
  }
}

/** What a request says of a database that is to be copied. */
export function saidCopy({ url, password, tables, grows }: RequestBody<'tryCopy'>): SaidCopy {
  return { url, ...(password ? { password } : {}), ...(tables?.length ? { tables } : {}), ...(grows ? { grows } : {}) }
}
