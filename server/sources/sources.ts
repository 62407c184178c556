import { sql } from 'drizzle-orm'
import { LRUCache } from 'lru-cache'
import type { Catalog } from '../../core/books/catalog'
import { bound } from '../../core/catalog/dialect'
import { seenCatalog } from '../../core/guard/seenCatalog'
import { chartQuery, unitsQuery, versionsQuery } from '../../core/sql/ledger'
import { type ChartRow, ledgerWords } from '../../core/books/chart'
import type { LedgerMap } from '../../core/books/ledger'
import { applySettings, bothSettings, type SourceSettings } from '../../core/books/settings'
import { valueAt } from '../../core/value/columns'
import { type Context, ownContext, whose } from '../access/context'
import type { Store } from '../store/store'
import { StoreError } from '../store/records'
import type { Snapshot, Source } from './contract'
import { guardedSnapshot, observersOf, ownAll, ownSight, type OwnSight } from './guarded'
import { NamedSource, plainId } from './namedSource'
import { ServerSource } from './postgres/serverSource'

/** What a source holds, with what is kept with it; `version` changes with all of that. */
interface ReadCatalog {
  catalog: Catalog
  version: string
}

interface Known {
  source: Source
  /** as whoever sees all of it sees it */
  catalog?: Promise<ReadCatalog>
  /** as others do, by what they see */
  seen?: LRUCache<string, Promise<ReadCatalog>>
}

/** Moments that somebody holds; `at` is nothing where whoever asks sees something else than who holds them. */
export interface HeldMoments {
  at: (context: Context, id: string) => Promise<Snapshot | undefined>
}

let versions = 0

/** The sources that are open, with what is kept with each. */
export class Sources {
  private readonly known = new Map<string, Known>()
  private readonly held = new Map<string, HeldMoments>()
  private readonly sights = new LRUCache<string, OwnSight>({ max: 200 })

  constructor(
    sources: readonly Source[],
    private readonly store: Store,
  ) {
    for (const source of sources) this.known.set(source.id, { source })
  }

  /** A source by its id; without one (an older definition) the first there is. @throws StoreError */
  get(id: string): Source {
    const found = id ? this.known.get(id) : [...this.known.values()][0]
    if (!found && !id) throw new StoreError('There is no source yet; add files or connect a server under Sources.', 404)
    if (!found) throw new StoreError(`The source “${id}” is not here; choose another for the report, or connect it under Sources.`, 404)
    return found.source
  }

  /** A source more. */
  add(source: Source): void {
    this.known.set(source.id, { source })
  }

  /** A source takes the place of the one of its id. */
  replace(source: Source): void {
    const before = this.get(source.id)
    if (before instanceof ServerSource) before.leave()
    this.known.set(source.id, { source })
    this.changed(source.id)
  }

  /** The rows of a source, and maybe its tables, are others now. */
  changed(id: string): void {
    const { id: own } = this.get(id)
    for (const [each, known] of this.known)
      if (each === own || plainId(each) === own) {
        delete known.catalog
        delete known.seen
      }
  }

  /** A source is not there any more; what is read through it ends. */
  async remove(id: string): Promise<void> {
    const source = this.get(id)
    const named = [...this.known.values()].filter(each => each.source.id !== source.id && plainId(each.source.id) === source.id)
    for (const each of [{ source }, ...named]) this.known.delete(each.source.id)
    await Promise.all([{ source }, ...named].map(each => each.source.close()))
  }

  list(): Source[] {
    return [...this.known.values()].map(each => each.source)
  }

  /** Is there a source of this id? */
  has(id: string): boolean {
    return this.known.has(id)
  }

  /** From now on, what is read within something (`context.within`) is of moments that it holds. */
  hold(within: string, moments: HeldMoments): void {
    this.held.set(within, moments)
  }

  letGo(within: string): void {
    this.held.delete(within)
  }

  /** Work with a snapshot that is let go of afterwards, or that is held by whatever this is read within. */
  async reading<T>(context: Context, id: string, work: (snapshot: Snapshot, source: Source) => Promise<T>): Promise<T> {
    const source = this.get(id)
    const held = context.within === undefined ? undefined : await this.held.get(context.within)?.at(context, source.id)
    if (held) return work(held, source)
    const snapshot = await this.snapshot(context, id)
    try {
      return await work(snapshot, source)
    } finally {
      snapshot.close()
    }
  }

  /** A moment of a source, as whoever asks sees it. @throws SourceError where it is away */
  async snapshot(context: Context, id: string): Promise<Snapshot> {
    const source = this.get(id)
    // read under other names, it is the source itself that is guarded
    if (source instanceof NamedSource) return source.snapshot(context)
    const sight = await this.sight(context, source.id)
    const snapshot = await source.snapshot(context)
    if (!sight.key) return snapshot
    try {
      return guardedSnapshot(snapshot, (await this.whole(this.known.get(source.id)!)).catalog, source.schema, sight)
    } catch (error) {
      snapshot.close()
      throw error
    }
  }

  /** What whoever asks sees of a source. */
  async sight(context: Context, id: string): Promise<OwnSight> {
    const observers = observersOf(context)
    if (!observers.length) return ownAll
    const source = this.get(plainId(this.get(id).id))
    const { value, version } = await this.store.guards(ownContext, source.id)
    if (!value.guards.length) return ownAll
    const known = this.known.get(source.id)!
    const { catalog, version: read } = await this.whole(known)
    const today = source.clock()
    const key = JSON.stringify([read, version, observers, today])
    let sight = this.sights.get(key)
    if (!sight) this.sights.set(key, (sight = ownSight(source.id, catalog, value, observers, today)))
    return sight
  }

  /** What tells apart what whoever asks sees of some sources, or of all of them, by their own ids; nothing where all is seen. */
  async sightsOf(context: Context, ids: readonly string[] = [...this.known.keys()]): Promise<Record<string, string>> {
    const found: Record<string, string> = {}
    for (const id of new Set(ids.filter(each => this.has(each)).map(each => plainId(each)))) {
      const { key } = await this.sight(context, id)
      if (key) found[id] = key
    }
    return found
  }

  /** Of some sources, the moments of their rows, where they have one (milliseconds since 1970). */
  moments(ids: readonly string[]): Record<string, number> {
    const found: Record<string, number> = {}
    for (const id of ids) {
      const asOf = this.has(id) ? this.get(id).about?.().asOf : undefined
      if (asOf !== undefined) found[id] = asOf
    }
    return found
  }

  /** May whoever asks see what was read of some sources by what they saw of it: the same, or all? */
  async seesAs(context: Context, ids: readonly string[], sights: Readonly<Record<string, string>>): Promise<boolean> {
    const own = await this.sightsOf(context, ids)
    return Object.entries(own).every(([id, key]) => sights[id] === key)
  }

  /**
   * What a source holds, as whoever asks sees it, with what is kept with it; where it is away, as it was last read. `version` changes with
   * all of that.
   */
  async catalog(context: Context, id: string, again = false): Promise<ReadCatalog> {
    const known = this.known.get(this.get(id).id)!
    if (again) {
      const { id: own } = known.source
      this.changed(plainId(own))
      delete known.catalog
      delete known.seen
    }
    const sight = await this.sight(context, id)
    return sight.key ? this.seenOf(known, context, sight) : this.whole(known)
  }

  /** What a source says of itself, without what is kept with it, as whoever asks sees it. */
  async bare(context: Context, id: string): Promise<Catalog> {
    const source = this.get(id)
    const found = await source.catalog(context)
    const sight = await this.sight(context, id)
    if (!sight.key || source instanceof NamedSource) return found
    const seen = seenCatalog(found, sight)
    return seen.ledger ? { ...seen, ledger: await this.withRows(context, source.id, seen.ledger) } : seen
  }

  private whole(known: Known): Promise<ReadCatalog> {
    return (known.catalog ??= this.read(known, ownContext).catch((error: unknown) => {
      delete known.catalog
      throw error
    }))
  }

  private seenOf(known: Known, context: Context, sight: OwnSight): Promise<ReadCatalog> {
    const seen = (known.seen ??= new LRUCache({ max: 50 }))
    let found = seen.get(sight.key)
    if (!found) {
      // it is for all who see the same: it goes on when whoever asked first leaves
      const own = whose(context)
      found = known.source instanceof NamedSource ? this.read(known, own) : this.readSeen(known, own, sight)
      seen.set(sight.key, found)
      found.catch(() => seen.delete(sight.key))
    }
    return found
  }

  /** The catalog without what is hidden, and with what the rows tell told by those that are seen. */
  private async readSeen(known: Known, context: Context, sight: OwnSight): Promise<ReadCatalog> {
    const { source } = known
    const { catalog, version } = await this.whole(known)
    const rows = await this.rowsSeen(context, source, [...sight.tests.keys()]).catch(() => ({}))
    const seen = seenCatalog(catalog, sight, rows)
    const own = { catalog: seen, version: `${version} ${sight.key}` }
    if (!seen.ledger) return own
    try {
      return { ...own, catalog: { ...seen, ledger: await this.withRows(context, source.id, seen.ledger) } }
    } catch {
      // nothing is known of its branches and accounts while it is away
      const { ledger: _, ...rest } = seen
      delete known.seen
      return { ...own, catalog: rest }
    }
  }

  /** How many records of some tables are seen. */
  private async rowsSeen(context: Context, { id, schema }: Source, tables: readonly string[]): Promise<Record<string, number>> {
    if (!tables.length) return {}
    const counts = tables.map(table => sql`(select count(*) from ${sql.identifier(schema)}.${sql.identifier(table)} as t)`)
    const query = {
      ...bound(sql`select ${sql.join(counts, sql`, `)}`),
      columns: tables.map(path => ({ path, type: 'number' as const, scale: 0 })),
    }
    const rows = await this.reading(context, id, snapshot => snapshot.query(query, { timeLimit: 5000 }))
    return Object.fromEntries(tables.map((table, at) => [table, (valueAt(rows.columns[at]!, 0) as { units: number }).units]))
  }

  private async read(known: Known, context: Context): Promise<ReadCatalog> {
    const { source } = known
    const { value: kept } = await this.store.settings(ownContext, source.id)
    const settings = source.said ? bothSettings(source.said, kept) : kept
    const version = `${source.id} ${++versions}`
    try {
      const found = await source.catalog(context)
      // what is kept for when it is away is what everybody may see of it, before anything is hidden
      if (!context.signedIn) await this.store.keepCatalog(ownContext, source.id, found).catch(() => {})
      const applied = applySettings(found, settings)
      const books = settings.ledger && applied.ledger
      return { catalog: books ? { ...applied, ledger: await this.withRows(context, source.id, books) } : applied, version }
    } catch (error) {
      delete known.catalog
      const last = context.signedIn ? undefined : await this.store.lastCatalog(ownContext, source.id)
      if (!last) throw error
      return { catalog: applySettings(last, settings), version }
    }
  }

  /** What is kept with a source has changed. */
  async saveSettings(context: Context, id: string, settings: SourceSettings, basedOn?: number): Promise<number> {
    const { id: own } = this.get(id)
    const version = await this.store.saveSettings(context, own, settings, basedOn)
    this.changed(own)
    return version
  }

  /** The accounts of a source by their codes. */
  async chart(context: Context, id: string, { accounts }: Pick<LedgerMap, 'accounts'>): Promise<ChartRow[]> {
    return this.reading(context, id, async (snapshot, { schema }) =>
      (await textRows(snapshot, chartQuery(accounts, schema), 4)).map(([code, name, type, group]) => ({
        code: code ?? '',
        name: name ?? '',
        type: type ?? null,
        class: group ?? null,
      })),
    )
  }

  /** The books as somebody said where they are, with what only the rows tell. */
  async withRows(context: Context, id: string, said: LedgerMap): Promise<LedgerMap> {
    const found: LedgerMap = { ...said, ...ledgerWords(await this.chart(context, id, said), said) }
    await this.reading(context, id, async (snapshot, { schema }) => {
      for (const key of ['branches', 'departments'] as const) {
        const unit = found[key]
        if (!unit) continue
        const rows = await textRows(snapshot, unitsQuery(unit, schema), 2)
        found[key] = { ...unit, units: rows.map(([code, name]) => ({ code: code ?? '', name: name ?? '' })) }
      }
      if (found.budgets?.version)
        found.versions = (await textRows(snapshot, versionsQuery(found.budgets, schema), 1)).map(([version]) => version ?? '')
    })
    return found
  }

  /** One sentence where a source cannot be read. */
  problem(id: string): string {
    return this.get(id).state().away?.why ?? ''
  }

  async close(): Promise<void> {
    await Promise.all(this.list().map(source => source.close()))
  }
}

/** Texts of a statement, row by row. */
async function textRows(
  snapshot: Snapshot,
  { text, values }: { text: string; values: unknown[] },
  count: number,
): Promise<(string | null)[][]> {
  const columns = Array.from({ length: count }, (_, index) => ({ path: `t${index}`, type: 'text' as const }))
  const rows = await snapshot.query({ text, values, columns })
  return Array.from({ length: rows.count }, (_, row) => rows.columns.map(column => valueAt(column, row) as string | null))
}
