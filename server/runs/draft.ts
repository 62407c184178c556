import { sql } from 'drizzle-orm'
import type { Catalog } from '../../core/books/catalog'
import type { SourceSettings } from '../../core/books/settings'
import { type JoinCandidate, joinCandidates } from '../../core/catalog/joins'
import type { TableLook } from '../../core/catalog/roles'
import { findTable, type ForeignKey } from '../../core/catalog/types'
import type { LevelDefinition, RelatedDefinition } from '../../core/definition/levels'
import type { ReportDefinition } from '../../core/definition/report'
import { lookQuery, readLook } from '../../core/sql/look'
import { matchQuery } from '../../core/sql/match'
import { DraftError } from '../../core/templates/drafts/data'
import type { DraftKind } from '../../core/templates/drafts/layout'
import { type DraftOrder, draftReport, tablesToLook } from '../../core/templates/drafts/report'
import { Tables } from '../../core/templates/drafts/tables'
import type { Context } from '../access/context'
import { keepSettings } from '../sources/keepSettings'
import type { Snapshot } from '../sources/contract'
import type { Sources } from '../sources/sources'
import type { Store } from '../store/store'
import { wholeAt } from './ask'
import { RunError } from './input'

/** Guesses that are tried for a draft; how long one statement may take, and all guesses and all looks each, in milliseconds. */
const [mostGuesses, timeLimit, allTime] = [24, 3000, 6000]

/**
 * Drafts a report from a table: its first rows and those of the tables around it are looked at, and relations that are only guessed are
 * tried on the data. Those that the draft needs are kept with the source, as when somebody accepts them.
 * @throws RunError with a sentence where the table or a wanted join is not there
 */
export async function makeDraft(
  context: Context,
  app: { sources: Sources; store: Store },
  order: DraftOrder,
): Promise<{ definition: ReportDefinition; kind: DraftKind }> {
  const { catalog } = await app.sources.catalog(context, order.source)
  if (!findTable(catalog, order.table)) throw new RunError([`There is no table “${order.table}” in the source; choose another.`])
  const known = await app.sources.reading(context, order.source, async (snapshot, { schema }) => {
    const own = new Tables(catalog)
    const near = [order.table, ...joinCandidates(catalog, order.table).map(each => each.table)]
    const tried = await tryGuesses(snapshot, schema, catalog, order.table, [...new Set(near)])
    const more: Catalog = tried.length ? { ...catalog, foreignKeys: [...catalog.foreignKeys, ...tried] } : catalog
    const looks = new Map<string, TableLook>()
    const end = Date.now() + allTime
    for (const name of tablesToLook(new Tables(more), order.table)) {
      if (Date.now() > end) break
      try {
        const table = own.find(name)!
        looks.set(name, readLook(table, await snapshot.query(lookQuery(table, schema), { timeLimit })))
      } catch {
        // a view that is slow or fails is judged by its names
      }
    }
    return { tables: new Tables(more, looks), tried }
  })
  try {
    const made = draftReport(known.tables, order)
    await keepNeeded(context, app, order.source, made.definition, known.tried)
    return made
  } catch (error) {
    if (error instanceof DraftError) throw new RunError([error.message])
    throw error
  }
}

/** Guessed relations of a table and of those around it that hold for the data: nearly all records find one, and one only. */
async function tryGuesses(
  snapshot: Snapshot,
  schema: string,
  catalog: Catalog,
  table: string,
  near: readonly string[],
): Promise<ForeignKey[]> {
  const guesses = joinCandidates(catalog, table).filter(each => each.origin === 'guessed')
  const parts = guesses.filter(each => each.direction === 'detail').map(each => each.table)
  const further = [...new Set([...parts, ...near])]
    .filter(each => each !== table)
    .flatMap(each =>
      joinCandidates(catalog, each)
        .filter(guess => guess.origin === 'guessed' && guess.direction === 'related')
        .map(guess => ({ from: each, guess })),
    )
  const all = [...guesses.map(guess => ({ from: table, guess })), ...further]
  const found: ForeignKey[] = []
  const end = Date.now() + allTime
  for (const { from, guess } of all.slice(0, mostGuesses)) {
    if (Date.now() > end) break
    const key = keyOfGuess(from, guess)
    if (found.some(each => each.name === key.name)) continue
    const side = (name: string) => sql`${sql.identifier(schema)}.${sql.identifier(name)}`
    try {
      const rows = await snapshot.query(
        matchQuery(
          side(key.from.table),
          side(key.to.table),
          key.from.columns.map((column, at) => ({ from: column, to: key.to.columns[at]! })),
          'related',
        ),
        { timeLimit },
      )
      const [records, finding, orphans, most] = [0, 1, 2, 3].map(at => wholeAt(rows, at)) as [number, number, number, number]
      if (records && finding && orphans <= records * 0.02 && most <= 1) found.push(key)
    } catch {
      // what cannot be tried is not joined
    }
  }
  return found
}

const keyOfGuess = (from: string, { direction, table, on }: JoinCandidate): ForeignKey => {
  const [child, parent] = direction === 'related' ? [from, table] : [table, from]
  const [own, theirs] = direction === 'related' ? (['from', 'to'] as const) : (['to', 'from'] as const)
  const columns = { from: on.map(pair => pair[own]), to: on.map(pair => pair[theirs]) }
  return {
    name: `guess ${child} ${columns.from.join()} ${parent}`,
    from: { table: child, columns: columns.from },
    to: { table: parent, columns: columns.to },
    origin: 'kept',
  }
}

/** Keeps the relations with the source that a definition joins by and that were only guessed until now. */
async function keepNeeded(
  context: Context,
  { sources, store }: { sources: Sources; store: Store },
  source: string,
  definition: ReportDefinition,
  tried: readonly ForeignKey[],
): Promise<void> {
  const used = new Set<string>()
  const pair = (child: string, from: readonly string[], parent: string) => used.add(`guess ${child} ${from.join()} ${parent}`)
  const records = (table: string, related: readonly RelatedDefinition[]) => {
    for (const each of related) {
      pair(
        table,
        each.on.map(on => on.from),
        each.table,
      )
      records(each.table, each.related)
    }
  }
  const level = (own: LevelDefinition) => {
    records(own.table, own.related)
    for (const detail of own.details) {
      pair(
        detail.table,
        detail.on.map(on => on.to),
        own.table,
      )
      level(detail)
    }
  }
  definition.dataSets.forEach(each => level(each.root))
  const needed = tried.filter(each => used.has(each.name))
  if (!needed.length) return
  const { value, version } = await store.settings(context, sources.get(source).id)
  const relations: SourceSettings['relations'] = [
    ...value.relations,
    ...needed.map(({ from, to }) => ({ from: { ...from }, to: { ...to }, unique: true })),
  ]
  await keepSettings(context, sources, source, { ...value, relations }, version)
}
