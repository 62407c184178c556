import { readDefinition } from '../../core/definition/schema'
import { isAnswers } from '../utils/app'

interface Body {
  definition: unknown
  answers: Record<string, string>
  limit: number
  dataSet?: number
}

/** The first records of a definition as it is being edited, with the statements that read them. */
export default route(async (event, app) => {
  const { definition, answers, limit, dataSet } = await jsonBody<Body>(
    event,
    body => isAnswers(body.answers) && Number.isInteger(body.limit) && body.limit > 0 && body.limit <= 1000,
  )
  const stop = new AbortController()
  event.node.res.on('close', () => stop.abort(new Error('The reader went away.')))
  const bytes = await app.pool.preview(
    { ...(await app.input('preview', readDefinition(definition), answers)), ...(Number.isInteger(dataSet) ? { dataSet } : {}) },
    limit,
    stop.signal,
  )
  setResponseHeader(event, 'content-type', 'application/json')
  return Buffer.from(bytes)
})
