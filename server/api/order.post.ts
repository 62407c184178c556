import type { RunOutput } from '../runs/run.worker'
import { isAnswers } from '../utils/app'
import { sendRun } from '../utils/sendRun'

interface Body {
  report: string
  answers: Record<string, string>
  output: Omit<RunOutput, 'file'>
  layout?: string
}

const formats = ['pdf', 'xlsx', 'csv', 'json', 'xml', 'html', 'svg']

/** A whole run into one file, as the command line asks for it; what it counted stands in a header. */
export default route(async (event, app) => {
  const {
    report: name,
    answers,
    output,
    layout,
  } = await jsonBody<Body>(
    event,
    body => typeof body.report === 'string' && isAnswers(body.answers) && formats.includes(body.output?.format),
  )
  const report = await app.store.report(name, 'published')
  const input = await app.checkedInput(report.name, report.definition, answers)
  return sendRun(event, app, { ...input, ...(typeof layout === 'string' ? { layout } : {}) }, output, result => {
    setResponseHeader(event, 'x-estante-result', encodeURIComponent(JSON.stringify({ ...result, report: report.name })))
    setResponseHeader(event, 'content-type', 'application/octet-stream')
  })
})
