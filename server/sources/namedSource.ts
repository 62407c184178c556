import { createHash } from 'node:crypto'
import type { Catalog } from '../../core/books/catalog'
import { applySettings, noSettings, type SourceSettings } from '../../core/books/settings'
import { namedCatalog, type SourceNames } from '../../core/swap/names'
import { NamedStatements } from '../../core/swap/statements'
import { valueAt } from '../../core/value/columns'
import type { Context } from '../access/context'
import { type Snapshot, type Source, SourceError, type SourceState } from './contract'
import { type Asked, withBooks } from './reading/foundBooks'

/** What is kept of a source that is read under the names of a report. */
export interface NamedOptions extends Record<string, unknown> {
  /** id of the source itself */
  of: string
  names: SourceNames
  /** captions, formats, books … that come along from the source that was read before */
  said?: SourceSettings
}

/** The kind of such sources among the connections. */
export const namedKind = 'named'

/** The id of a source under some names: the same names have the same id. */
export const namedId = ({ of, names, said }: NamedOptions) =>
  `${of}~${createHash('sha256')
    .update(JSON.stringify([names, said]))
    .digest('hex')
    .slice(0, 12)}`

/** The source that an id speaks of, whatever the names are. */
export const plainId = (id: string) => id.split('~')[0]!

/** Where the source itself is found, with its catalog and all that is kept with it. */
export interface Within {
  source: (id: string) => Source
  catalog: (context: Context, id: string) => Promise<{ catalog: Catalog }>
  /** as whoever asks sees it */
  snapshot: (context: Context, id: string) => Promise<Snapshot>
}

/** A snapshot that is asked for rows by the names of their columns. */
function askedOf(snapshot: Snapshot): Asked {
  return {
    query: async <Row>(text: string, values: unknown[] = []) => {
      const found = await snapshot.query({
        text: `select to_json(own)::text from (${text}) as own`,
        values,
        columns: [{ path: 'row', type: 'text' }],
      })
      return { rows: Array.from({ length: found.count }, (_, row) => JSON.parse(valueAt(found.columns[0]!, row) as string) as Row) }
    },
  }
}

/** What a source under some names holds, where the source itself holds this. */
export function under(source: Source, catalog: Catalog): Catalog {
  return source instanceof NamedSource ? applySettings(namedCatalog(catalog, source.options.names), source.said) : catalog
}

/**
 * A source under the names by which a report knows its tables and columns: the report stays as it was written, and its statements are put
 * into the source's own names on their way.
 */
export class NamedSource implements Source {
  readonly kind = namedKind
  readonly dialect = 'postgresql'

  constructor(
    readonly id: string,
    readonly name: string,
    readonly options: NamedOptions,
    private readonly within: Within,
  ) {}

  get said(): SourceSettings {
    return this.options.said ?? noSettings
  }

  private get base(): Source {
    return this.within.source(this.options.of)
  }

  get schema(): string {
    return this.base.schema
  }

  clock = () => this.base.clock()
  open = () => Promise.resolve()
  made = () => this.base.made()
  state = (): SourceState => this.base.state()
  guardsTexts = () => this.base.guardsTexts?.() ?? false
  about = () => ({ ...(this.base.about?.() ?? { from: this.base.name }) })
  close = () => Promise.resolve()

  /** Books and periods that the source itself does not show are looked for under the names of the report. */
  async catalog(context: Context): Promise<Catalog> {
    const shown = namedCatalog((await this.within.catalog(context, this.options.of)).catalog, this.options.names)
    if ((shown.ledger && shown.calendar) || this.state().away) return shown
    const snapshot = await this.snapshot(context)
    try {
      return { ...(await withBooks(askedOf(snapshot), this.schema, shown)), ...shown }
    } finally {
      snapshot.close()
    }
  }

  async snapshot(context: Context): Promise<Snapshot> {
    const base = this.base
    // before the tables are named, so that a copy that is refreshed meanwhile is read as it was described
    const { catalog } = await this.within.catalog(context, this.options.of)
    const named = new NamedStatements(catalog, this.options.names, base.schema)
    const snapshot = await this.within.snapshot(context, this.options.of)
    const inOwn = <Q extends { text: string; authored?: boolean }>(query: Q): { query: Q; before: number } => {
      const text = named.statement(query.text)
      if (!query.authored) return { query: { ...query, text }, before: 0 }
      const authored = named.authored(text)
      const whole = `${authored.before}${authored.text}`
      return { query: { ...query, text: whole }, before: whole.length - query.text.length }
    }
    /** places that are told are those of the text as its author wrote it */
    const placed = async <T>(before: number, asking: Promise<T>): Promise<T> => {
      try {
        return await asking
      } catch (error) {
        if (!(error instanceof SourceError) || error.position === undefined || !before) throw error
        throw new SourceError(error.message, Math.max(1, error.position - before))
      }
    }
    return {
      moment: snapshot.moment,
      query: (query, options) => {
        const own = inOwn(query)
        return placed(own.before, snapshot.query(own.query, options))
      },
      describe: (text, options) => {
        const own = inOwn({ text, authored: true })
        return placed(own.before, snapshot.describe(own.query.text, options))
      },
      queryTo: (port, query, options) => {
        const own = inOwn(query)
        return placed(own.before, snapshot.queryTo(port, own.query, options))
      },
      port: () => snapshot.port(),
      close: () => snapshot.close(),
    }
  }
}
