import { sourceDocument } from '../../../runs/document'
import { StoreError } from '../../../store/records'

/** The document that a journal names. */
export default route(async (context, event, app) => {
  const source = partOf(event, 'source')
  const number = askedOf(event).number ?? ''
  const { catalog } = await app.sources.catalog(context, source)
  const found = number
    ? await app.sources.reading(context, source, (snapshot, { schema }) =>
        sourceDocument(catalog, schema, number, catalog.ledger?.journals?.table ?? '', query => snapshot.query(query)),
      )
    : undefined
  if (!found) throw new StoreError(`The source has no document ${number || 'without a number'}; its journal was posted by hand.`, 404)
  return found
})
