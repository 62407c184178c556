import { answerText, splitSeveral } from '../../../core/parameter/answers'
import { choicesQueries } from '../../../core/sql/choices'
import type { Fetch } from '../../../core/read/read'
import type { TextColumn } from '../../../core/value/columns'
import { speaksOf } from '../../../core/value/text'
import type { Answer } from '../../../core/value/value'
import type { NestedRun } from './ready'

/**
 * Looks up the labels of choices that a nested report is answered with, by one statement for each parameter that its pages speak of; they
 * are kept with the report.
 */
export async function addLabels(run: NestedRun, answered: readonly Record<string, Answer>[], fetch: Fetch): Promise<void> {
  const { definition, report, printed, schema, today } = run
  const words = JSON.stringify(report.layoutDefinition.blocks)
  const labels = printed.labels as Record<string, Record<string, string>>
  for (const parameter of definition.parameters) {
    const { name, choices } = parameter
    if (!choices?.table || choices.label === choices.value || !speaksOf(words, name)) continue
    const known = (labels[name] ??= {})
    const texts = answered.flatMap(values => {
      const text = answerText(parameter, values)
      return parameter.kind === 'choices' ? splitSeveral(text) : text ? [text] : []
    })
    const values = [...new Set(texts)].filter(text => !Object.hasOwn(known, text))
    if (!values.length) continue
    const { catalog, tables } = report.model
    const planning = { catalog, tables, schema, parameterTypes: report.parameterTypes, parameters: {}, today }
    const { page } = choicesQueries(planning, parameter, { limit: values.length, values, narrowing: [] })
    const rows = await fetch(page)
    const [value, label] = rows.columns.map(column => (column as TextColumn).values)
    for (const text of values) known[text] = text
    for (let row = 0; row < rows.count; row++) known[value![row]!] = label![row] ?? value![row]!
  }
}
