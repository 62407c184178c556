import { nestedPlaces } from '../../../core/model/nested'
import type { NestedBlock } from '../../../core/definition/blocks/nested'
import type { ReportDefinition } from '../../../core/definition/report'
import { speaksOf } from '../../../core/value/text'
import { type Context, ownContext } from '../../access/context'
import type { Sources } from '../../sources/sources'
import { StoreError } from '../../store/records'
import type { Store } from '../../store/store'
import { answeredLabels } from '../choices'
import { elsewhereSources, readElsewhere } from '../elsewhere'
import { RunError, type RunInput } from '../input'
import type { Planner } from '../planner'

interface Means {
  store: Store
  sources: Sources
  planner: Planner
}

/** A report on the way from the outermost one to those nested in it. */
interface Step {
  id: string
  name: string
}

/**
 * What the reports that are nested in a report are run with, by block: as they are published, or in the version that is fixed.
 * @throws RunError where one is nested in itself, is not there or cannot be read
 */
export async function nestedInputs(
  context: Context,
  means: Means,
  definition: ReportDefinition,
  path: readonly Step[],
): Promise<Record<string, RunInput> | undefined> {
  const places = nestedPlaces(definition)
  if (!places.length) return undefined
  const known = new Map<string, Promise<RunInput>>()
  const read = (block: NestedBlock) => {
    const key = JSON.stringify([block.report, block.version, block.layout])
    if (!known.has(key)) known.set(key, nestedInput(context, means, block, path))
    return known.get(key)!
  }
  return Object.fromEntries(await Promise.all(places.map(async ({ block }) => [block.id, await read(block)] as const)))
}

/** The definition of a nested report, as it is published or in the version that is fixed. @throws RunError */
export async function nestedDefinition(
  context: Context,
  store: Store,
  block: Pick<NestedBlock, 'report' | 'name' | 'version' | 'layout'>,
): Promise<{ id: string; name: string; version: number; definition: ReportDefinition }> {
  try {
    // a version that is fixed is what its author has put there, for whoever runs the report itself
    if (block.version !== undefined) await store.needReport(context, block.report, 'run')
    const { id, name, version, definition } =
      block.version === undefined ? await store.report(context, block.report, 'published') : await store.report(ownContext, block.report)
    const own = block.version === undefined ? definition : await store.version(context, id, block.version)
    if (block.layout && !own.layouts.some(each => each.name === block.layout))
      throw new RunError([`The nested report “${name}” has no layout “${block.layout}” any more; choose another for it.`])
    return { id, name, version: block.version ?? version, definition: own }
  } catch (error) {
    if (!(error instanceof StoreError)) throw error
    throw new RunError([`The nested report “${block.name}” cannot be read: ${error.message}`])
  }
}

async function nestedInput(context: Context, means: Means, block: NestedBlock, path: readonly Step[]): Promise<RunInput> {
  const { sources, store } = means
  const { id, name, version, definition } = await nestedDefinition(context, store, block)
  refuseWithinItself(path, { id, name })
  const wanted = definition.dataSets[0]!.source
  if (wanted && !sources.has(wanted))
    throw new RunError([`The nested report “${name}” reads a source that is not here any more; point it at another.`])
  const source = sources.get(wanted)
  const { catalog, version: catalogVersion } = await sources.catalog(context, source.id)
  const today = source.clock()
  const moving = (definition.tables ?? []).find(
    table => table.kind === 'elsewhere' && table.filters.some(filter => speaksOf(filter, 'param')),
  )
  if (moving)
    throw new RunError([
      `“${name}” cannot be nested: what it reads of another source as “${moving.name}” depends on its parameters; filter it on a level.`,
    ])
  const elsewhere = await readElsewhere(context, sources, {
    definition: unasked(definition),
    answers: {},
    today,
    calendar: catalog.calendar,
  })
  const plain: RunInput = {
    name,
    definition: elsewhere ? { ...definition, tables: elsewhere.definition.tables! } : definition,
    source: source.id,
    answers: {},
    catalog,
    catalogVersion,
    schema: source.schema,
    today,
    definitionVersion: `${id} ${version}`,
    ...(elsewhere ? { elsewhere: elsewhere.rows } : {}),
    ...(block.layout ? { layout: block.layout } : {}),
  }
  const sights = await sources.sightsOf(context, [source.id, ...elsewhereSources(definition)])
  const [labels, nested] = await Promise.all([
    answeredLabels(context, means, plain),
    nestedInputs(context, means, definition, [...path, { id, name }]),
  ])
  return { ...plain, sights, labels, ...(nested ? { nested } : {}) }
}

/** @throws RunError with the path */
export function refuseWithinItself(path: readonly Step[], own: Step): void {
  const at = path.findIndex(each => each.id === own.id)
  if (at < 0) return
  const way = [...path.slice(at), own].map(each => `“${each.name}”`).join(' → ')
  throw new RunError([`“${own.name}” would be nested in itself: ${way}; take it out of one of them.`])
}

/** A report whose parameters need no answers: what is read of other sources does not depend on them. */
const unasked = (definition: ReportDefinition): ReportDefinition => ({
  ...definition,
  parameters: definition.parameters.map(each => ({ ...each, required: false })),
})
