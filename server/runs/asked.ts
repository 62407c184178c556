import { footnotePrefix } from '../../core/definition/edits/footnotes'
import { answerWords, readAnswers } from '../../core/parameter/answers'
import type { RunInput } from './input'

/** What a run was asked, in words: a text for each answer. */
export function askedWords({ definition, answers, today, catalog, labels }: RunInput): string[] {
  const { values } = readAnswers(definition.parameters, answers, {
    today,
    language: definition.language,
    ...(catalog.calendar ? { calendar: catalog.calendar } : {}),
    ...(labels ? { labels } : {}),
  })
  return [
    ...definition.parameters
      .filter(parameter => !parameter.hidden && answers[parameter.name])
      .map(parameter => `${parameter.label}: ${answerWords(parameter, values)}`),
    ...(Object.keys(answers).some(name => name.startsWith(footnotePrefix)) ? ['footnotes said otherwise'] : []),
  ]
}
