import { readable } from '../catalog/types'
import type { ReportDefinition } from '../definition/report'
import type { Answer } from '../value/value'
import { answerText, answerWords } from './answers'

/** “No invoice in October 2026.”: what a run without records says. */
export function emptySentence(definition: ReportDefinition, parameters: Readonly<Record<string, Answer>>): string {
  const { root } = definition.dataSets[0]!
  const parts = definition.parameters.flatMap(parameter => {
    if (parameter.hidden || answerText(parameter, parameters) === '') return []
    const words = answerWords(parameter, parameters)
    return [parameter.kind === 'month' || parameter.kind === 'period' ? `in ${words}` : `with ${parameter.label.toLowerCase()} ${words}`]
  })
  return `${['No', (root.caption ?? readable(root.name)).toLowerCase(), parts.join(' and ')].filter(Boolean).join(' ')}.`
}
