import { parseDefinition } from '../../../core/definition/schema'

interface Body {
  name: string
  shelf: string
  text: string
}

/** Takes in a definition from a file as a new report. */
export default route(async (event, app) => {
  const { name, shelf, text } = await jsonBody<Body>(event, body =>
    [body.name, body.shelf, body.text].every(each => typeof each === 'string' && each !== ''),
  )
  return { id: await app.store.create(shelf, name.slice(0, 200), parseDefinition(text), false) }
})
