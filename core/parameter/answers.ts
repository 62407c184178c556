import { type ParameterDefinition, parameterTypes } from '../definition/types'
import type { Value } from '../dataset/records'
import { checkFormula, suggestion } from '../formula/check'
import { compileFormula } from '../formula/evaluate'
import { type Day, monthStart, parseDay } from '../value/date'
import { parseDecimal } from '../value/decimal'

/** An answer that cannot be used: one sentence, beside its parameter. */
export interface AnswerProblem { parameter: string, sentence: string }

/**
 * Reads answers given as text. One left out takes its default, one given blank is empty (rule 18 of the semantics);
 * months are written `2026-10`, dates `2026-10-31`, yes/no `yes` or `no`.
 */
export function readAnswers(parameters: readonly ParameterDefinition[], given: Readonly<Record<string, string | undefined>>, today: Day): { values: Record<string, Value>, problems: AnswerProblem[] } {
  const values: Record<string, Value> = {}
  const problems: AnswerProblem[] = []
  const names = parameters.map(parameter => parameter.name)
  for (const name of Object.keys(given)) {
    if (!names.includes(name)) problems.push({ parameter: name, sentence: `There is no parameter “${name}”${suggestion(name, names) || (names.length ? `; there are ${names.join(', ')}` : '')}.` })
  }
  for (const parameter of parameters) {
    const text = given[parameter.name]
    if (text === undefined) values[parameter.name] = defaultAnswer(parameter, today)
    else if (text.trim() === '') values[parameter.name] = null
    else {
      const value = readAnswer(parameter, text.trim())
      if (value === undefined) problems.push({ parameter: parameter.name, sentence: `“${text.slice(0, 60)}” is no ${kindWords[parameter.kind]} for ${parameter.label}.` })
      else values[parameter.name] = value
    }
    if (parameter.required && values[parameter.name] === null) problems.push({ parameter: parameter.name, sentence: `${parameter.label} needs an answer.` })
  }
  return { values, problems }
}

const kindWords: Record<ParameterDefinition['kind'], string> = {
  month: 'month (written like 2026-10)', date: 'date (written like 2026-10-31)', text: 'text', number: 'number (written like 12.5)', boolean: 'yes or no', choice: 'choice',
}

function readAnswer(parameter: ParameterDefinition, text: string): Value | undefined {
  switch (parameter.kind) {
    case 'month': {
      const day = /^\d{4}-\d{2}(-\d{2})?$/.test(text) ? parseDay(text) : undefined
      return day === undefined ? undefined : monthStart(day)
    }
    case 'date': return /^\d{4}-\d{2}-\d{2}$/.test(text) ? parseDay(text) : undefined
    case 'number': return parseDecimal(text)
    case 'boolean': return /^(yes|true)$/i.test(text) ? true : /^(no|false)$/i.test(text) ? false : undefined
    default: return text
  }
}

/** What a parameter's default formula gives, empty where it has none or it cannot be read. */
function defaultAnswer(parameter: ParameterDefinition, today: Day): Value {
  if (!parameter.default) return null
  const typed = checkFormula(parameter.default, { levels: [], level: -1, parameters: {} })
  if (typed.type !== parameterTypes[parameter.kind]) return null
  return compileFormula(typed, { levels: [], data: { levels: [] }, parameters: {}, today })({ level: -1, from: 0, to: 1 })
}
