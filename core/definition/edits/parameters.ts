import type { ReportDefinition } from '../report'
import type { ParameterDefinition } from '../parameters'
import { replaced } from './levels'

export function putParameter(report: ReportDefinition, parameter: ParameterDefinition, before?: string): ReportDefinition {
  const parameters = replaced(report.parameters, parameter, before)
  if (!before || before === parameter.name) return { ...report, parameters }
  return {
    ...report,
    parameters: parameters.map(each =>
      each.choices?.narrowedBy
        ? {
            ...each,
            choices: {
              ...each.choices,
              narrowedBy: each.choices.narrowedBy.map(by => (by.parameter === before ? { ...by, parameter: parameter.name } : by)),
            },
          }
        : each,
    ),
  }
}

export function removeParameter(report: ReportDefinition, name: string): ReportDefinition {
  return {
    ...report,
    parameters: report.parameters
      .filter(each => each.name !== name)
      .map(each =>
        each.choices?.narrowedBy?.some(by => by.parameter === name)
          ? { ...each, choices: { ...each.choices, narrowedBy: each.choices.narrowedBy.filter(by => by.parameter !== name) } }
          : each,
      ),
  }
}

export function moveParameter(report: ReportDefinition, name: string, by: -1 | 1): ReportDefinition {
  const from = report.parameters.findIndex(each => each.name === name)
  const to = from + by
  if (from < 0 || to < 0 || to >= report.parameters.length) return report
  const parameters = [...report.parameters]
  parameters.splice(to, 0, ...parameters.splice(from, 1))
  return { ...report, parameters }
}
