import type { Context } from '../access/context'
import type { Sources } from '../sources/sources'
import { StoreError } from '../store/records'
import type { Store } from '../store/store'
import type { RunInput } from './input'
import type { RunRecord } from './registry'
import { runsIn } from './tasks'

/** The sources that a run reads, and what was seen of each. */
const readBy = (input: RunInput): { ids: string[]; sights: Record<string, string> } => {
  const all = runsIn(input)
  return {
    ids: all.flatMap(each => [
      each.source,
      ...(each.definition.tables ?? []).flatMap(table => (table.kind === 'elsewhere' ? table.source : [])),
    ]),
    sights: Object.assign({}, ...all.map(each => each.sights ?? {})) as Record<string, string>,
  }
}

/** May whoever asks see a run: do they see of its sources what was seen there, or all? */
export function seesRun(context: Context, sources: Sources, input: RunInput): Promise<boolean> {
  const { ids, sights } = readBy(input)
  // what an author looks at as a team sees it is no less theirs
  const { as: _, ...own } = context
  return sources.seesAs(own, ids, sights)
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
  const { ids, sights } = readBy(input)
  const own = await sources.sightsOf(now, ids)
  return (
    ids.length === 0 ||
    (Object.keys(own).length === Object.keys(sights).length && Object.entries(own).every(([id, key]) => sights[id] === key))
  )
}
