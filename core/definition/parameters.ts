import type { ValueType } from '../value/value'

export const parameterKinds = ['text', 'whole', 'decimal', 'date', 'dates', 'month', 'period', 'boolean', 'choice', 'choices'] as const
/** `dates` is a date range, `period` one of the source's fiscal calendar, `choices` several choices. */
export type ParameterKind = (typeof parameterKinds)[number]

/** A question that the reader answers before a run. They are asked in the order of their list. */
export interface ParameterDefinition {
  name: string
  label: string
  kind: ParameterKind
  required: boolean
  /** a formula; of a date range its first day, with `defaultTo` its last */
  default?: string
  defaultTo?: string
  help?: string
  /** never asked: it takes its default, and cannot be set from outside */
  hidden?: boolean
  /** where the choices of a `choice` or `choices` come from */
  choices?: ChoicesDefinition
}

export interface ChoicesDefinition {
  /** a table of the source, or "@name" for a data set or table of the report; "" where the choices are typed in */
  table: string
  value: string
  label: string
  /** what the values are; text where it is left out */
  type?: ValueType
  /** choices that are typed in, in their order */
  list?: { value: string; label: string }[]
  /** parameters whose answers narrow the choices: only rows whose column holds the answer are offered */
  narrowedBy?: { parameter: string; column: string }[]
}

/** Type of what a formula reads as `param.x`; `texts` stands for several texts, to be used with `in (…)`. */
export type ParameterType = ValueType | 'texts'

/**
 * All that formulas can read of the parameters: `param.month`; of a range `.from` and `.to`; of choices and periods `.label`, as titles
 * print it.
 */
export function parameterTypes(parameters: readonly ParameterDefinition[]): Record<string, ParameterType> {
  return Object.fromEntries(
    parameters.flatMap((parameter): [string, ParameterType][] => {
      const { name } = parameter
      switch (parameter.kind) {
        case 'month':
        case 'date':
          return [[name, 'date']]
        case 'dates':
          return [
            [`${name}.from`, 'date'],
            [`${name}.to`, 'date'],
            [`${name}.label`, 'text'],
          ]
        case 'whole':
        case 'decimal':
          return [[name, 'number']]
        case 'boolean':
          return [[name, 'boolean']]
        case 'text':
          return [[name, 'text']]
        case 'choices':
          return [
            [name, 'texts'],
            [`${name}.label`, 'text'],
          ]
        case 'choice':
          return [
            [name, parameter.choices?.type ?? 'text'],
            [`${name}.label`, 'text'],
          ]
        default:
          return [
            [name, 'text'],
            [`${name}.label`, 'text'],
          ]
      }
    }),
  )
}
