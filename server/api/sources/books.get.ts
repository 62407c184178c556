import { checkLedger } from '../../../core/dataset/ledgerChecks'
import { sourceSchema } from '../../estante'

/** Where the source keeps its books, as found, and how they fare when checked against the data. */
export default route(async (_event, app) => {
  const { ledger } = await app.catalog()
  return ledger ? { ledger, checks: await checkLedger(ledger, sourceSchema, query => app.engine.query(query)) } : {}
})
