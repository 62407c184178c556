import { createHash } from 'node:crypto'
import type { Catalog } from '../../core/books/catalog'
import { policyStatements } from '../../core/guard/policies'
import { allSeen, type Observer, type Sight, sightOf } from '../../core/guard/sight'
import { GuardedStatements } from '../../core/guard/statements'
import type { SourceGuards } from '../../core/guard/guards'
import type { Query, ShownTables } from '../../core/sql/query'
import type { Day } from '../../core/value/date'
import type { Context } from '../access/context'
import { type Snapshot, SourceError } from './contract'

/** What a person sees of a source; `key` tells sights apart, and is empty where all is seen. */
export interface OwnSight extends Sight {
  key: string
  /** texts that were released for people with guards */
  released: ReadonlySet<string>
  /** other texts are taken apart, and guarded that way */
  parsed: boolean
}

/** What somebody with guards is told whose text nothing can guard. */
export const unguarded =
  'This is a SQL text on a server, where guards of your teams cannot hold; ask an administrator to release the text, or to let texts of ' +
  'this source be taken apart.'

export const ownAll: OwnSight = { ...allSeen, key: '', released: new Set(), parsed: false }

/** Who looks: the person and, where an author looks at something as a team sees it, that team too. */
export function observersOf({ signedIn, as }: Context): Observer[] {
  if (!signedIn) return []
  const attributes: Record<string, string[]> = { sign_in: [signedIn.signIn] }
  for (const team of signedIn.teams)
    for (const [name, values] of Object.entries(team.attributes)) attributes[name] = [...(attributes[name] ?? []), ...values]
  const own: Observer = { teams: signedIn.teams.map(each => each.id), attributes }
  return as ? [own, { teams: [as.id], attributes: as.attributes }] : [own]
}

/** What some observers see of a source that holds a catalog. */
export function ownSight(
  id: string,
  catalog: Catalog,
  { guards, released, parsed = false }: SourceGuards,
  observers: readonly Observer[],
  today: Day,
): OwnSight {
  const sight = sightOf(catalog, guards, observers, today)
  if (!sight.told) return ownAll
  const key = createHash('sha256').update(`${id} ${sight.told}`).digest('hex').slice(0, 20)
  return { ...sight, key, released: new Set(released.map(each => each.text)), parsed }
}

/**
 * A moment of a source as somebody sees it: whatever is asked of it, and by which part of the program, is asked of what they see. Texts of
 * authors are guarded by the engine, where it can, or by taking them apart, where an administrator allows that; else one is refused that
 * was not released.
 */
export function guardedSnapshot(snapshot: Snapshot, catalog: Catalog, schema: string, sight: OwnSight): Snapshot {
  const statements = new GuardedStatements(catalog, schema, sight)
  let policies: string[] | undefined
  let tables: ShownTables | undefined
  const shown = () => (tables ??= statements.shown())
  const guard = () => (policies ??= policyStatements(catalog, schema, sight))
  const own = (query: Query): Query => {
    if (!query.authored) return statements.query(query)
    if (snapshot.guardsTexts) return { ...query, guard: guard() }
    if (query.texts?.length && query.texts.every(text => sight.released.has(text))) return statements.query(query)
    if (sight.parsed) return { ...query, shown: shown() }
    throw new SourceError(unguarded)
  }
  return {
    ...snapshot,
    query: async (query, options) => snapshot.query(own(query), options),
    queryTo: async (port, query, options) => snapshot.queryTo(port, own(query), options),
    describe: (text, options) =>
      snapshot.describe(text, { ...options, ...(snapshot.guardsTexts ? { guard: guard() } : sight.parsed ? { shown: shown() } : {}) }),
  }
}
