import type { NestedBlock } from '../../definition/blocks/nested'
import type { ReportDefinition } from '../../definition/report'
import { joinSeveral, readAnswers } from '../../parameter/answers'
import { dayText } from '../../value/date'
import { plainText } from '../../value/plain'
import type { Answer, Value } from '../../value/value'
import type { NestedSource } from './reports'

/** What tells answers of a nested report from others: a text that fedAnswers reads. Values are those of the block's feeds, in order. */
export const answersKey = (values: readonly Value[]): string => JSON.stringify(values.map(fedText))

/** A value as an answer is written: dates and numbers as ISO 8601 and plain decimals, yes and no as such, nothing as a blank. */
function fedText(value: Value): string {
  if (value === null) return ''
  return typeof value === 'boolean' ? (value ? 'yes' : 'no') : plainText(value, dayText)
}

/** The answers behind a key, as texts, by parameter. A value that is fed where several may be chosen is one of them. */
export function fedAnswers(block: NestedBlock, definition: ReportDefinition, key: string): Record<string, string> {
  const texts = JSON.parse(key) as string[]
  return Object.fromEntries(
    block.feeds.map(({ parameter }, at) => {
      const text = texts[at] ?? ''
      const several = definition.parameters.find(each => each.name === parameter)?.kind === 'choices'
      return [parameter, several && text ? joinSeveral([text]) : text]
    }),
  )
}

/** Answers as formulas read them, and what is wrong with them in sentences. */
export function answersRead(
  { definition, today, catalog, labels }: NestedSource,
  answers: Record<string, string>,
): { values: Record<string, Answer>; problems: string[] } {
  const { values, problems } = readAnswers(definition.parameters, answers, {
    today,
    language: definition.language,
    ...(catalog.calendar ? { calendar: catalog.calendar } : {}),
    ...(labels ? { labels } : {}),
  })
  return { values, problems: problems.map(each => each.sentence) }
}
