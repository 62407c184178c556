import { readDefinition } from '../../../core/definition/schema'

/** Puts a new report on a shelf. */
export default route(async (context, event, app) => {
  const { name, shelf, definition } = await bodyOf(event, 'create')
  return { id: await app.store.create(context, shelf.trim(), name.trim(), readDefinition(definition), false) }
})
