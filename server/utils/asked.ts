import { readDefinition } from '../../core/definition/schema'
import type { Estante } from '../estante'
import type { RunInput } from '../runs/execute'
import { isAnswers } from './app'

/** A body that names a report as readers run it, or brings a definition as it is being edited. */
export interface Asked {
  report?: string
  definition?: unknown
  answers: Record<string, string>
  dataSet?: number
}

export const isAsked = (body: Asked) =>
  isAnswers(body.answers) &&
  (typeof body.report === 'string' || typeof body.definition === 'object') &&
  (body.dataSet === undefined || Number.isInteger(body.dataSet))

export async function askedInput(app: Estante, body: Asked): Promise<RunInput> {
  const { name, definition } =
    body.report === undefined
      ? { name: 'preview', definition: readDefinition(body.definition) }
      : await app.store.report(body.report, 'published')
  return { ...(await app.input(name, definition, body.answers)), ...(body.dataSet ? { dataSet: body.dataSet } : {}) }
}
