import type { ReportDefinition } from '../definition/report'
import { FormulaError } from '../formula/syntax'
import { printedText } from './texts'
import { type AnswerSurroundings, readAnswers } from '../parameter/answers'
import { cleanFileName, fileName } from '../parameter/fileName'

/** The name of a report's file, without ending: by its pattern where it has one that can be printed, else its name and answers. */
export function reportFileName(
  name: string,
  { parameters, fileName: pattern, language }: Pick<ReportDefinition, 'parameters' | 'fileName' | 'language'>,
  answers: Readonly<Record<string, string>>,
  around: AnswerSurroundings,
): string {
  if (!pattern?.trim()) return fileName(name, parameters, answers)
  const spoken = { ...around, language }
  const { values, problems } = readAnswers(parameters, answers, spoken)
  if (problems.length) return fileName(name, parameters, answers)
  try {
    return cleanFileName(printedText(pattern, parameters, values, spoken))
  } catch (error) {
    if (error instanceof FormulaError) return fileName(name, parameters, answers)
    throw error
  }
}
