import { readDefinition } from '../../core/definition/schema'
import { isAnswers } from '../utils/app'

interface Body {
  definition: unknown
  answers: Record<string, string>
}

/** What the tie-outs of a definition as it is being edited come to, over all records. */
export default route(async (event, app) => {
  const { definition, answers } = await jsonBody<Body>(event, body => isAnswers(body.answers))
  const stop = new AbortController()
  event.node.res.on('close', () => stop.abort(new Error('The reader went away.')))
  return app.pool.tieOuts(await app.input('tie-outs', readDefinition(definition), answers), stop.signal)
})
