import { ownContext, whose } from '../../../access/context'
import { mayBe } from '../../../access/need'

/**
 * The first page of a report with its parameters' defaults, for its miniature on the shelf: of the draft for authors, as it is published
 * for readers. It is made once for all who see the same, whoever asked first; the definition is read only where it is made.
 */
export default route(async (context, event, app) => {
  const draft = mayBe(context, 'author') ? await app.store.draft(context, partOf(event, 'id')) : undefined
  const found = draft ?? (await app.store.report(context, partOf(event, 'id'), 'published'))
  const { id, version } = found
  const seen = await app.sources.sightsOf(context)
  const guarded = Object.keys(seen).length > 0
  const reader = guarded ? whose(context) : ownContext
  return app.miniatures.page(id, version, guarded ? JSON.stringify(seen) : '', async () => {
    const { name, definition } = await app.store.report(ownContext, id, draft ? 'draft' : 'published')
    return app.pool.firstPage(reader, await app.input(reader, name, definition, {}))
  })
})
