import type { ParameterDefinition } from '../definition/parameters'

/** A file's name from a report's name and its answers, cleaned of what file systems refuse; at most 120 characters. */
export function fileName(report: string, parameters: readonly ParameterDefinition[], answers: Readonly<Record<string, string>>): string {
  const parts = parameters
    .filter(parameter => !parameter.hidden)
    .flatMap(parameter =>
      answers[parameter.name]?.trim() ? [answers[parameter.name]!.trim().replaceAll('..', ' to ').replaceAll(',', ' ')] : [],
    )
  return cleanFileName([report, ...parts].join(' '))
}

/** A text as the name of a file, without what file systems refuse; at most 120 characters. */
export function cleanFileName(text: string): string {
  return (
    text
      // eslint-disable-next-line no-control-regex
      .replace(/[\u0000-\u001f<>:"/\\|?*]+/g, ' ')
      .replace(/\s+/g, ' ')
      .replace(/^[. ]+|[. ]+$/g, '')
      .slice(0, 120)
      .trim() || 'Report'
  )
}
