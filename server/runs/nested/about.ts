import type { NestedAbout } from '../../../core/api/answers'
import type { Context } from '../../access/context'
import type { Estante } from '../../estante'
import { nestedDefinition, nestedInputs, refuseWithinItself } from './resolve'

/**
 * What a report is where it is nested in another. @throws RunError where it cannot be, among others since it would be nested in itself;
 * `within` is the id of the report around it
 */
export async function aboutNested(
  context: Context,
  app: Estante,
  wanted: string,
  { version, within }: { version?: number | undefined; within?: string | undefined },
): Promise<NestedAbout> {
  const {
    id,
    name,
    version: own,
    definition,
  } = await nestedDefinition(context, app.store, { report: wanted, name: wanted, ...(version === undefined ? {} : { version }) })
  const around = within ? await app.store.draft(context, within) : undefined
  const path = around ? [{ id: around.id, name: around.name }] : []
  refuseWithinItself(path, { id, name })
  await nestedInputs(context, app, definition, [...path, { id, name }])
  const input = await app.input(context, name, definition, {}, { version: `${id} ${own}` })
  const { totals = [] } = await app.planner.plan(context, input, { kind: 'handsOut' })
  return {
    id,
    name,
    version: own,
    layouts: definition.layouts.map(layout => layout.name),
    parameters: definition.parameters.filter(each => !each.hidden),
    totals,
  }
}
