import { readDefinition } from '../../../core/definition/schema'

interface Body {
  name: string
  shelf: string
  definition: unknown
}

/** Puts a new report on a shelf. */
export default route(async (event, app) => {
  const { name, shelf, definition } = await jsonBody<Body>(event, body =>
    [body.name, body.shelf].every(each => typeof each === 'string' && each.trim() !== ''),
  )
  return { id: await app.store.create(shelf.trim().slice(0, 200), name.trim().slice(0, 200), readDefinition(definition), false) }
})
