import '../plugins'
import type { Query, Rows } from '../core/sql/query'
import type { Context } from '../server/access/context'
import type { Estante } from '../server/estante'

export { companyEngine, companyFolder, schema as sourceSchema, sourceId } from '../demo/source'

/** Who asks in a benchmark. */
export const tester: Context = { person: 'bench' }

/** A statement over the company of a running Estante. */
export const askCompany = (estante: Estante, query: Query): Promise<Rows> =>
  estante.sources.reading(tester, '', snapshot => snapshot.query(query))
