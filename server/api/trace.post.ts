import { readDefinition } from '../../core/definition/schema'
import { readyRun } from '../runs/execute'
import { statementTrace } from '../runs/statementTrace'
import { isAnswers } from '../utils/app'

interface Body {
  report?: string
  definition?: unknown
  answers: Record<string, string>
  statement: string
  line: string
  column: string
  account?: string
}

/** What stands behind a figure of a statement: of a definition as it is being edited, or of a report as it is published. */
export default route(async (event, app) => {
  const { report, definition, answers, statement, line, column, account } = await jsonBody<Body>(
    event,
    body =>
      isAnswers(body.answers) &&
      [body.statement, body.line, body.column].every(each => typeof each === 'string') &&
      (typeof body.report === 'string' || typeof body.definition === 'object'),
  )
  const own = definition === undefined ? (await app.store.report(report!, 'published')).definition : readDefinition(definition)
  return statementTrace(
    readyRun(await app.input('trace', own, answers), true),
    { statement, line, column, ...(typeof account === 'string' ? { account } : {}) },
    query => app.engine.query(query),
  )
})
