import { ownContext } from '../../../access/context'
import { mayBe } from '../../../access/need'

/** The first page of a report with its parameters' defaults, for its miniature on the shelf. */
export default route(async (context, event, app) => {
  // readers see what is published
  if (!mayBe(context, 'author')) {
    const { id, version, name, definition } = await app.store.report(context, partOf(event, 'id'), 'published')
    return app.miniatures.page(id, version, async () => app.pool.firstPage(ownContext, await app.input(ownContext, name, definition, {})))
  }
  const { id, version } = (await app.store.draft(context, partOf(event, 'id'))) ?? (await app.store.report(context, partOf(event, 'id')))
  // it is made for all who look at the shelf, whoever asked first; the definition is read only where it is
  return app.miniatures.page(id, version, async () => {
    const { name, definition } = await app.store.report(ownContext, id)
    return app.pool.firstPage(ownContext, await app.input(ownContext, name, definition, {}))
  })
})
