import type { Context } from '../access/context'
import type { Estante } from '../estante'
import type { RunInput } from '../runs/input'
import { sightsIn } from '../runs/theirs'

/** What tells apart what is kept of a run by what was seen when it was read; empty where all was. */
export function sightKey(input: RunInput): string {
  return Object.entries(sightsIn(input))
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([id, key]) => `${id} ${key}`)
    .join('\n')
}

/** The same for the rows that are pinned for a report: those of its draft. */
export async function pinnedSight(context: Context, app: Estante, id: string): Promise<string> {
  // who sees all of every source needs not be told apart, and the report not be read
  if (!Object.keys(await app.sources.sightsOf(context)).length) return ''
  const { name, definition } = await app.store.report(context, id)
  return sightKey(await app.input(context, name, definition, {}, { report: id }))
}
