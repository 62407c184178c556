import { type ParameterDefinition, parameterTypes } from '../definition/parameters'
import { checkFormula } from '../formula/check'
import { compileFormula } from '../formula/evaluate'
import { FormulaError } from '../formula/syntax'
import { type AnswerSurroundings, answerText, readAnswers } from '../parameter/answers'
import { monthStart } from '../value/date'
import type { Answer } from '../value/value'
import type { PackDefinition, PackReport } from './definition'

/** What a report of a pack is asked with, or why that cannot be told: a sentence each. */
export interface Fed {
  answers: Record<string, string>
  problems: string[]
}

/** The pack's own answers, given as text or by their defaults. */
export function packAnswers(
  pack: PackDefinition,
  given: Readonly<Record<string, string>>,
  around: AnswerSurroundings,
): { values: Record<string, Answer>; problems: string[] } {
  const { values, problems } = readAnswers(pack.parameters, given, around)
  return { values, problems: problems.map(each => each.sentence) }
}

/**
 * Answers of the pack's, handed to one of its reports as they would be written for it.
 * @param values what packAnswers gave
 */
export function fedAnswers(
  pack: PackDefinition,
  report: PackReport,
  parameters: readonly ParameterDefinition[],
  values: Readonly<Record<string, Answer>>,
  around: AnswerSurroundings,
): Fed {
  const fed: Fed = { answers: {}, problems: [] }
  const fail = (sentence: string) => fed.problems.push(`“${report.name}”: ${sentence}`)
  for (const [name, answer] of Object.entries(report.answers)) {
    const parameter = parameters.find(each => each.name === name && !each.hidden)
    if (!parameter) {
      fail(`there is no parameter “${name}” any more; take its answer out of the pack.`)
      continue
    }
    if (answer.is === 'text') {
      fed.answers[name] = answer.text
      continue
    }
    if (answer.is === 'parameter') {
      const own = pack.parameters.find(each => each.name === answer.name)
      if (!own) fail(`the pack has no parameter “${answer.name}” any more; choose another for “${parameter.label}”.`)
      else fed.answers[name] = answerText(own, values)
      continue
    }
    const found = workedOut(answer.formula, parameter, pack, values, around)
    if ('sentence' in found) fail(found.sentence)
    else fed.answers[name] = found.text
  }
  return fed
}

/** A formula over the pack's answers, as an answer to a parameter is written. */
function workedOut(
  formula: string,
  parameter: ParameterDefinition,
  pack: PackDefinition,
  values: Readonly<Record<string, Answer>>,
  around: AnswerSurroundings,
): { text: string } | { sentence: string } {
  try {
    const typed = checkFormula(formula, { levels: [], level: -1, parameters: parameterTypes(pack.parameters) })
    const wanted = parameterTypes([parameter])[parameter.name]
    if (wanted === undefined || wanted === 'texts' || (typed.type !== wanted && typed.type !== 'empty'))
      return { sentence: `the formula ${formula} does not give what “${parameter.label}” asks for.` }
    const value = compileFormula(typed, {
      levels: [],
      data: { levels: [] },
      parameters: { ...values },
      today: around.today,
      ...(around.calendar ? { calendar: around.calendar } : {}),
    })({ level: -1, from: 0, to: 1 })
    const own = parameter.kind === 'month' && typeof value === 'number' ? monthStart(value) : value
    return { text: answerText(parameter, { [parameter.name]: own }) }
  } catch (error) {
    if (error instanceof FormulaError) return { sentence: `the answer to “${parameter.label}” cannot be worked out: ${error.message}` }
    throw error
  }
}
