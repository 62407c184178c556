import { sourceSchema } from '../estante'
import { sourceDocument } from '../runs/document'
import { StoreError } from '../store/store'

/** The document that a journal names. */
export default route(async (event, app) => {
  const number = String(getQuery(event).number ?? '')
  const catalog = await app.catalog()
  const found = number
    ? await sourceDocument(catalog, sourceSchema, number, catalog.ledger?.journals?.table ?? '', query => app.engine.query(query))
    : undefined
  if (!found) throw new StoreError(`The source has no document ${number || 'without a number'}; its journal was posted by hand.`, 404)
  return found
})
