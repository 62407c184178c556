import { parseDay } from '../../../../../core/value/date'
import { readOutput } from '../../../../runs/output'
import { type RefreshOutput, StoreError } from '../../../../store/store'
import { isAnswers } from '../../../../utils/app'

interface Body {
  label: string
  answers: Record<string, string>
  output: Record<string, unknown>
  until: string
}

/** Makes a refresh address for the published version with fixed answers; its secret is told only in this answer. */
export default route(async (event, app) => {
  const body = await jsonBody<Body>(
    event,
    each => typeof each.label === 'string' && isAnswers(each.answers) && typeof each.output === 'object' && typeof each.until === 'string',
  )
  if (parseDay(body.until) === undefined) throw new StoreError('Say until which day the address answers, such as 2026-12-31.', 422)
  const output = readOutput(body.output)
  if (output.format !== 'csv' && output.format !== 'json') throw new StoreError('A refresh address gives CSV or JSON.', 422)
  const report = await app.store.report(getRouterParam(event, 'id')!, 'published')
  // wrong answers are told now, not to the spreadsheet later
  await app.checkedInput(report.name, report.definition, body.answers)
  return app.store.addAddress(report.id, {
    label: body.label.trim().slice(0, 120) || report.name,
    answers: body.answers,
    output: output as RefreshOutput,
    until: body.until,
  })
})
