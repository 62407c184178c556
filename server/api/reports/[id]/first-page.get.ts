import { forTask, ownContext } from '../../../access/context'
import { mayBe } from '../../../access/need'

/**
 * The first page of a report with its parameters' defaults, for its miniature on the shelf: of the draft for authors, as it is published
 * for readers. It is made once for all who see the same, whoever asked first; the definition is read only where it is made.
 */
export default route(async (context, event, app) => {
  const draft = mayBe(context, 'author') ? await app.store.draft(context, partOf(event, 'id')) : undefined
  const found = draft ?? (await app.store.report(context, partOf(event, 'id'), 'published'))
  const { id, version } = found
  const seen = await app.sources.sightsOf(
    context,
    app.sources.list().map(each => each.id),
  )
  const guarded = Object.keys(seen).length > 0
  // it goes on when whoever asked first leaves
  const reader = guarded ? { ...forTask(context, 'miniature'), signal: undefined } : ownContext
  return app.miniatures.page(id, version, guarded ? JSON.stringify(seen) : '', async () => {
    const { name, definition } = draft ? await app.store.report(ownContext, id) : await app.store.report(ownContext, id, 'published')
    return app.pool.firstPage(reader as typeof ownContext, await app.input(reader as typeof ownContext, name, definition, {}))
  })
})
