import equal from 'fast-deep-equal'
import type { Team } from '../../core/api/people'
import type { Context } from '../access/context'
import type { Sources } from '../sources/sources'
import { StoreError } from '../store/records'
import type { RunRow } from '../store/runRows'
import type { Store } from '../store/store'
import { elsewhereSources } from './elsewhere'
import type { RunInput } from './input'
import type { RunRecord } from './runRecord'
import { runsIn } from './tasks'

/** What was seen of the sources of a run, where that was not all, by their ids. */
export const sightsIn = (input: RunInput): Record<string, string> =>
  Object.assign({}, ...runsIn(input).map(each => each.sights ?? {})) as Record<string, string>

/** The sources that a run reads. */
const sourcesIn = (input: RunInput): string[] => runsIn(input).flatMap(each => [each.source, ...elsewhereSources(each.definition)])

/** What a run reads, and what was seen of it. */
export const seenIn = (input: RunInput): { sources: string[]; sights: Record<string, string> } => ({
  sources: [...new Set(sourcesIn(input))],
  sights: sightsIn(input),
})

/** May whoever asks see what was read of sources: do they see of these what was seen there, or all? */
export function seesRead(
  context: Context,
  sources: Sources,
  read: readonly string[],
  sights: Readonly<Record<string, string>>,
): Promise<boolean> {
  // what an author looks at as a team sees it is no less theirs
  const { as: _, ...own } = context
  return sources.seesAs(own, read, sights)
}

/** May a run go on in the name of whoever started it: are they still there, is the report theirs, and do they see what they saw? */
export async function mayGoOn({ context, report, input }: RunRecord, store: Store, sources: Sources): Promise<boolean> {
  if (!context.signedIn) return true
  const person = await store.people.find(context.signedIn.id)
  // the command line is no person of the store
  if (!person) return context.signedIn.signIn === ''
  const now: Context = { ...context, signedIn: person }
  try {
    if (report) await store.needReport(now, report, 'run')
  } catch (error) {
    if (error instanceof StoreError) return false
    throw error
  }
  return equal(await sources.sightsOf(now, sourcesIn(input)), sightsIn(input))
}

/** Who asked for a run, as they are now; nothing where they are not here any more. */
export async function contextOfRun(
  { person, personId, lookedAs }: Pick<RunRow, 'person' | 'personId'> & { lookedAs?: unknown },
  store: Store,
): Promise<Context | undefined> {
  if (personId === null) return { person }
  const signedIn = await store.people.find(personId)
  return signedIn && { person, signedIn, ...(lookedAs ? { as: lookedAs as Team } : {}) }
}
