import { readable } from '../catalog/types'
import type { ReportDefinition } from '../definition/types'
import type { Value } from '../dataset/records'

/** “No invoice in October 2026.”: what a run without records says. */
export function emptySentence(definition: ReportDefinition, parameters: Readonly<Record<string, Value>>, answers: Readonly<Record<string, string>>): string {
  const { root } = definition.dataSets[0]!
  const parts = definition.parameters.flatMap((parameter) => {
    const value = parameters[parameter.name]
    if (value === null || value === undefined) return []
    if (parameter.kind === 'month') return [`in ${new Intl.DateTimeFormat('en', { month: 'long', year: 'numeric', timeZone: 'UTC' }).format(new Date(value as number * 86400000))}`]
    return [`with ${parameter.label.toLowerCase()} ${answers[parameter.name] ?? ''}`.trim()]
  })
  return `${['No', (root.caption ?? readable(root.name)).toLowerCase(), parts.join(' and ')].filter(Boolean).join(' ')}.`
}
