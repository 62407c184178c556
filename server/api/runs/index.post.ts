import { isAnswers } from '../../utils/app'

interface Body {
  report: string
  answers: Record<string, string>
  layout?: string
}

/** Starts a run of the published version; its pages can be read while it grows. */
export default route(async (event, app) => {
  const { report, answers, layout } = await jsonBody<Body>(
    event,
    body => typeof body.report === 'string' && isAnswers(body.answers) && (body.layout === undefined || typeof body.layout === 'string'),
  )
  const { id, name, definition } = await app.store.report(report, 'published')
  const run = app.runs.start(
    { ...(await app.checkedInput(name, definition, answers)), ...(layout ? { layout } : {}), moment: Date.now() },
    id,
  )
  return { id: run.id }
})
