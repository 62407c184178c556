import { assembleReport } from '../../core/compose/assemble'
import { readAnswers } from '../../core/parameter/answers'
import type { PlanInput } from '../../core/sql/planInput'
import type { RunInput } from './input'

/** What a parameter's statements are planned with; faults in other answers do not matter here. */
export function choicesPlanning(input: RunInput): Omit<PlanInput, 'levels' | 'used'> {
  const { model } = assembleReport(input.definition, input.catalog)
  const { values } = readAnswers(input.definition.parameters, input.answers, {
    today: input.today,
    ...(input.catalog.calendar ? { calendar: input.catalog.calendar } : {}),
  })
  return {
    catalog: model.catalog,
    tables: model.tables,
    schema: input.schema,
    parameterTypes: model.parameterTypes,
    parameters: values,
    today: input.today,
  }
}
