import { checkText, compileText } from '../compose/text'
import type { ParameterDefinition } from '../definition/parameters'
import { parameterTypes } from '../definition/parameters'
import { compileFormula } from '../formula/evaluate'
import { FormulaError } from '../formula/syntax'
import type { AnswerSurroundings } from '../parameter/answers'
import type { Answer } from '../value/value'

/**
 * A text with a pack's answers in it (`Month end {{ param.period }}`), as it is printed.
 * @throws FormulaError where a value in it cannot be worked out
 */
export function printedText(
  text: string,
  parameters: readonly ParameterDefinition[],
  values: Readonly<Record<string, Answer>>,
  { today, calendar, language = 'en-GB' }: AnswerSurroundings,
): string {
  const checked = checkText(text, { levels: [], level: -1, parameters: parameterTypes(parameters) }, language)
  if (checked.late) throw new FormulaError('There are no pages here whose number could be printed; leave that out.', 0, text.length)
  const around = { levels: [], data: { levels: [] }, parameters: { ...values }, today, ...(calendar ? { calendar } : {}) }
  return compileText(checked, typed => compileFormula(typed, around))({ level: -1, from: 0, to: 1 })
}
