import type { Catalog } from '../../core/books/catalog'
import { chartQuery, unitsQuery, versionsQuery } from '../../core/sql/ledger'
import { type ChartRow, ledgerWords } from '../../core/books/chart'
import type { LedgerMap } from '../../core/books/ledger'
import { applySettings, bothSettings, type SourceSettings } from '../../core/books/settings'
import { valueAt } from '../../core/value/columns'
import { type Context, ownContext } from '../access/context'
import type { Store } from '../store/store'
import { StoreError } from '../store/records'
import type { Snapshot, Source } from './contract'
import { plainId } from './namedSource'
import { ServerSource } from './postgres/serverSource'

interface Known {
  source: Source
  catalog?: Promise<{ catalog: Catalog; version: string }>
}

let versions = 0

/** The sources that are open, with what is kept with each. */
export class Sources {
  private readonly known = new Map<string, Known>()

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
    for (const [each, known] of this.known) if (each === own || plainId(each) === own) delete known.catalog
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

  /** Work with a snapshot that is let go of afterwards. */
  async reading<T>(context: Context, id: string, work: (snapshot: Snapshot, source: Source) => Promise<T>): Promise<T> {
    const source = this.get(id)
    const snapshot = await source.snapshot(context)
    try {
      return await work(snapshot, source)
    } finally {
      snapshot.close()
    }
  }

  /** What a source holds, with what is kept with it; where it is away, as it was last read. `version` changes with all of that. */
  catalog(id: string, again = false): Promise<{ catalog: Catalog; version: string }> {
    const known = this.known.get(this.get(id).id)!
    if (again) {
      const { id: own } = known.source
      this.changed(plainId(own))
      delete known.catalog
    }
    return (known.catalog ??= this.read(known).catch((error: unknown) => {
      delete known.catalog
      throw error
    }))
  }

  private async read(known: Known): Promise<{ catalog: Catalog; version: string }> {
    const { source } = known
    const { value: kept } = await this.store.settings(ownContext, source.id)
    const settings = source.said ? bothSettings(source.said, kept) : kept
    const version = `${source.id} ${++versions}`
    try {
      const found = await source.catalog(ownContext)
      await this.store.keepCatalog(ownContext, source.id, found).catch(() => {})
      const applied = applySettings(found, settings)
      const books = settings.ledger && applied.ledger
      return { catalog: books ? { ...applied, ledger: await this.withRows(ownContext, source.id, books) } : applied, version }
    } catch (error) {
      delete known.catalog
      const last = await this.store.lastCatalog(ownContext, source.id)
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
