import { readDefinition } from '../../../../core/definition/schema'
import { isAnswers } from '../../../utils/app'

interface Body {
  definition: unknown
  answers: Record<string, string>
  limit: number
}

/** Reads rows anew and pins them. */
export default route(async (event, app) => {
  const { definition, answers, limit } = await jsonBody<Body>(
    event,
    body => isAnswers(body.answers) && Number.isInteger(body.limit) && body.limit > 0 && body.limit <= 1000,
  )
  const stop = new AbortController()
  event.node.res.on('close', () => stop.abort(new Error('The reader went away.')))
  const bytes = await app.pool.preview(await app.input('preview', readDefinition(definition), answers), limit, stop.signal)
  // the rows are on their way before they are put away
  app.store.pin(getRouterParam(event, 'id')!, answers, bytes).catch((error: unknown) => console.error('Rows were not pinned:', error))
  setResponseHeader(event, 'content-type', 'application/json')
  return Buffer.from(bytes)
})
