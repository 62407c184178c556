import { OutputError, readOutput, refreshFormats } from '../../../../../core/api/outputs'
import type { RefreshOutput } from '../../../../../core/api/answers'
import { parseDay } from '../../../../../core/value/date'
import { StoreError } from '../../../../store/records'

/** Makes a refresh address for the published version with fixed answers; its secret is told only in this answer. */
export default route(async (context, event, app) => {
  const { label, answers, output: asked, until } = await bodyOf(event, 'address')
  if (parseDay(until) === undefined) throw new StoreError('Say until which day the address answers, such as 2026-12-31.', 422)
  if (!(refreshFormats as unknown[]).includes(asked.format)) throw new OutputError('A refresh address gives CSV or JSON.')
  const output = readOutput(asked) as RefreshOutput
  const report = await app.store.report(context, partOf(event, 'id'), 'published')
  // wrong answers are told now, not to the spreadsheet later
  const input = await app.checkedInput(context, report.name, report.definition, answers)
  const { levels = [] } = await app.planner.plan(context, input, { kind: 'levels' })
  if (output.level !== undefined && !levels.includes(output.level))
    throw new OutputError(`There is no level “${output.level}”; there are ${levels.join(', ')}.`)
  const made = await app.store.addresses.add(context, report.id, {
    label: label.trim().slice(0, 120) || report.name,
    answers,
    output,
    until,
  })
  await writeDown(context, event, app, 'address made', { report: report.name, id: report.id, answers, until })
  return made
})
