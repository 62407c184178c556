import type { ParameterDefinition } from '../definition/parameters'
import { joinSeveral, splitSeveral } from './answers'

/** Parameters that narrow one another in a circle: one sentence. */
export class NarrowingError extends Error {}

/** Parameters above come first: each stands after those that narrow its choices, else in the order of the list. @throws NarrowingError */
export function narrowingOrder(parameters: readonly ParameterDefinition[]): ParameterDefinition[] {
  const ordered: ParameterDefinition[] = []
  const open: ParameterDefinition[] = []
  const visit = (parameter: ParameterDefinition): void => {
    if (ordered.includes(parameter)) return
    if (open.includes(parameter)) {
      const circle = [...open.slice(open.indexOf(parameter)), parameter].map(each => each.label)
      throw new NarrowingError(`${circle.join(' would be narrowed by ')}: that goes in a circle; take one of them out.`)
    }
    open.push(parameter)
    for (const { parameter: above } of parameter.choices?.narrowedBy ?? []) {
      const found = parameters.find(each => each.name === above)
      if (found) visit(found)
    }
    open.pop()
    ordered.push(parameter)
  }
  parameters.forEach(visit)
  return ordered
}

/** Columns of a parameter's choices that answers above narrow, with the values that stay. */
export interface Narrowing {
  column: string
  values: string[]
}

export function narrowingOf(
  parameter: ParameterDefinition,
  parameters: readonly ParameterDefinition[],
  answers: Readonly<Record<string, string | undefined>>,
): Narrowing[] {
  return (parameter.choices?.narrowedBy ?? []).flatMap(({ parameter: name, column }) => {
    const above = parameters.find(each => each.name === name)
    const text = answers[name]?.trim()
    if (!above || !text) return []
    return [{ column, values: above.kind === 'choices' ? splitSeveral(text) : [text] }]
  })
}

/** Which of some values a parameter's choices hold, narrowed. */
export type ValidValues = (
  parameter: ParameterDefinition,
  values: readonly string[],
  narrowing: readonly Narrowing[],
) => Promise<readonly string[]>

/** Answers that were let go since they are no longer among the choices. */
export interface Dropped {
  parameter: string
  values: string[]
  sentence: string
}

/**
 * Goes through the parameters in narrowing order and keeps only answers that are still among their choices.
 * What is dropped is said; an answer whose parameter has no choices from a table stays as it is.
 */
export async function settleAnswers(
  parameters: readonly ParameterDefinition[],
  answers: Readonly<Record<string, string | undefined>>,
  valid: ValidValues,
): Promise<{ answers: Record<string, string | undefined>; dropped: Dropped[] }> {
  const settled: Record<string, string | undefined> = { ...answers }
  const dropped: Dropped[] = []
  for (const parameter of narrowingOrder(parameters)) {
    const text = settled[parameter.name]?.trim()
    if (!text || !parameter.choices?.table) continue
    const values = parameter.kind === 'choices' ? splitSeveral(text) : [text]
    const left = await valid(parameter, values, narrowingOf(parameter, parameters, settled))
    const gone = values.filter(value => !left.includes(value))
    if (!gone.length) continue
    const stay = values.filter(value => left.includes(value))
    settled[parameter.name] = parameter.kind === 'choices' ? joinSeveral(stay) : ''
    dropped.push({
      parameter: parameter.name,
      values: gone,
      sentence:
        `${gone.map(value => `“${value}”`).join(', ')} ${gone.length === 1 ? 'is' : 'are'} no longer among the choices of ` +
        `${parameter.label} and ${gone.length === 1 ? 'was' : 'were'} let go.`,
    })
  }
  return { answers: settled, dropped }
}
