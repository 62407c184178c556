import { sql } from 'drizzle-orm'
import { type LedgerMap, ledgerLack } from '../../core/books/ledger'
import { applySettings, noSettings, type SourceSettings } from '../../core/books/settings'
import type { Catalog } from '../../core/books/catalog'
import { bound } from '../../core/catalog/dialect'
import { type CatalogTable, findTable, type TableCatalog } from '../../core/catalog/types'
import { pointAt } from '../../core/definition/edits/dataSets'
import type { ReportDefinition } from '../../core/definition/report'
import { type Samples, nearness, proposeMatches } from '../../core/swap/match'
import type { SourceNames } from '../../core/swap/names'
import { type NeededTable, needsOf } from '../../core/swap/needs'
import { namesOfMatches, type SwapProposal } from '../../core/api/swap'
import { valueAt } from '../../core/value/columns'
import { decimalText, parseDecimal, trim } from '../../core/value/decimal'
import type { Context } from '../access/context'
import { StoreError } from '../store/records'
import type { Store } from '../store/store'
import { lacksOf } from './checkSource'
import { namedId, namedKind, type NamedOptions, NamedSource } from './namedSource'
import type { Sources } from './sources'

interface Parts {
  store: Store
  sources: Sources
}

/** Rows of a table that are looked at for their values, and tables of the other source whose values are. */
const [looked, mostTables] = [1000, 60]

/** Values of some rows of tables, by table and column; a table that cannot be read has none. */
async function samplesOf(
  context: Context,
  sources: Sources,
  id: string,
  tables: readonly { table: string; columns: readonly string[] }[],
): Promise<Samples> {
  const found = new Map<string, Map<string, Set<string>>>()
  const { catalog } = await sources.catalog(context, id)
  await sources.reading(context, id, async (snapshot, { schema }) => {
    for (const { table, columns } of tables) {
      const known = (findTable(catalog, table)?.columns ?? []).filter(each => columns.includes(each.name))
      if (!known.length) continue
      const list = known.map(column => sql`t.${sql.identifier(column.name)}::text`)
      const statement = sql`select ${sql.join(list, sql`, `)} from ${sql.identifier(schema)}.${sql.identifier(table)} as t limit
        ${sql.raw(String(looked))}`
      try {
        const rows = await snapshot.query(
          { ...bound(statement), columns: known.map(column => ({ path: column.name, type: 'text' as const })) },
          { timeLimit: 3000 },
        )
        const values = new Map<string, Set<string>>()
        rows.columns.forEach((column, at) => {
          const own = new Set<string>()
          for (let row = 0; row < rows.count; row++) {
            const text = valueAt(column, row) as string | null
            if (text !== null) own.add(known[at]!.type === 'number' ? plainNumber(text) : text.trim())
          }
          values.set(known[at]!.name, own)
        })
        found.set(table, values)
      } catch (error) {
        if (context.signal?.aborted) throw error
      }
    }
  })
  return found
}

const plainNumber = (text: string) => {
  const value = parseDecimal(text)
  return value ? decimalText(trim(value)) : text
}

/** The tables of a source that may be those of a report, the nearest first. */
function nearTables(needs: readonly NeededTable[], to: TableCatalog): string[] {
  const nearest = (need: NeededTable, { name, columns }: CatalogTable) => {
    const near = need.columns.filter(({ column }) => columns.some(each => nearness(column, each.name) >= 0.8)).length
    return nearness(need.table, name) + near / Math.max(1, need.columns.length)
  }
  return to.tables
    .map(table => ({ name: table.name, near: Math.max(0, ...needs.map(need => nearest(need, table))) }))
    .sort((a, b) => b.near - a.near)
    .slice(0, mostTables)
    .map(each => each.name)
}

/** The source that a report reads: that of its first data set. */
const sourceOf = (sources: Sources, definition: ReportDefinition) => sources.get(definition.dataSets[0]?.source ?? '')

/** The source to which a report is pointed. @throws StoreError where it is the one that it reads, or one under other names */
function target(sources: Sources, definition: ReportDefinition, to: string) {
  const [from, other] = [sourceOf(sources, definition), sources.get(to)]
  if (other.kind === namedKind || other.id !== to)
    throw new StoreError(`There is no source “${to}”; choose one of those under Sources.`, 404)
  return { from, other }
}

/** What a report needs of its source, and what is proposed for it in another. */
export async function proposeSwap(context: Context, parts: Parts, definition: ReportDefinition, to: string): Promise<SwapProposal> {
  const { sources } = parts
  const { from, other } = target(sources, definition, to)
  const [{ catalog: own }, { catalog }] = [await sources.catalog(context, from.id), await sources.catalog(context, other.id)]
  const needs = needsOf(definition, own)
  // a source that is away is matched by its names alone
  const none: Samples = new Map()
  const samples = {
    own: await samplesOf(
      context,
      sources,
      from.id,
      needs.map(({ table, columns }) => ({ table, columns: columns.map(each => each.column) })),
    ).catch(() => none),
    other: await samplesOf(
      context,
      sources,
      other.id,
      nearTables(needs, catalog).map(table => ({ table, columns: findTable(catalog, table)!.columns.map(each => each.name) })),
    ).catch(() => none),
  }
  const tables = proposeMatches(needs, own, catalog, samples)
  const { lacks } = await pointed(context, parts, definition, to, namesOfMatches(tables))
  return { from: { id: from.id, name: from.name }, to: { id: other.id, name: other.name }, tables, lacks }
}

/** A report that is pointed at another source under some names: not kept, but it can be run. */
export interface Pointed {
  definition: ReportDefinition
  source: string
  lacks: string[]
  /** what is kept where the report is: nothing where the source is read under its own names */
  named?: NamedSource
}

/**
 * Points a report at another source. Where all names are its own and nothing comes along, it is read as it is; else under the names of the
 * report, with what was said of the source before: captions, formats, books.
 * @throws StoreError where a name is one that the source does not have
 */
export async function pointed(
  context: Context,
  parts: Parts,
  definition: ReportDefinition,
  to: string,
  names: SourceNames,
): Promise<Pointed> {
  const { sources, store } = parts
  const { from, other } = target(sources, definition, to)
  const [{ catalog: own }, { catalog }] = [await sources.catalog(context, from.id), await sources.catalog(context, other.id)]
  for (const [name, { table, columns }] of Object.entries(names.tables)) {
    if (!table) continue
    const found = findTable(catalog, table)
    if (!found) throw new StoreError(`“${other.name}” has no table “${table}” for “${name}”; choose another.`, 422)
    for (const [column, real] of Object.entries(columns))
      if (real && !found.columns.some(each => each.name === real))
        throw new StoreError(`“${table}” of “${other.name}” has no column “${real}” for “${column}”; choose another.`, 422)
  }
  const said = await carried(store, { from: { id: from.id, said: from.said, catalog: own }, to: catalog, names })
  const plain = Object.entries(names.tables).every(
    ([name, { table, columns }]) => name === table && Object.entries(columns).every(([shown, real]) => shown === real),
  )
  let [source, named]: [string, NamedSource | undefined] = [other.id, undefined]
  if (!plain || said) {
    const options: NamedOptions = { of: other.id, names, ...(said ? { said } : {}) }
    source = namedId(options)
    named = sources.has(source)
      ? (sources.get(source) as NamedSource)
      : new NamedSource(source, nameOf(sources, other.name, from.name), options, {
          source: each => sources.get(each),
          catalog: (asking, each) => sources.catalog(asking, each),
          snapshot: (asking, each) => sources.snapshot(asking, each),
        })
  }
  const next = pointAt(definition, definition.dataSets[0]?.source ?? '', source)
  const shown = named ? applySettings(await named.catalog(context), named.said) : catalog
  return { definition: next, source, lacks: lacksOf(next, shown, source), ...(named ? { named } : {}) }
}

/** The same, so that it can be run: until it is kept, its source is there as long as the program runs. */
export async function pointedReady(...asked: Parameters<typeof pointed>): Promise<Pointed> {
  const found = await pointed(...asked)
  const [, { sources }] = asked
  if (found.named && !sources.has(found.source)) sources.add(found.named)
  return found
}

function nameOf(sources: Sources, to: string, from: string): string {
  const wanted = `${to}, under the names of ${from}`
  const taken = new Set(sources.list().map(each => each.name))
  let name = wanted
  for (let number = 2; taken.has(name); number++) name = `${wanted} (${number})`
  return name
}

/** What was said of the source before and counts under the same names still; nothing where there is nothing. */
async function carried(
  store: Store,
  { from, to, names }: { from: { id: string; said: SourceSettings | undefined; catalog: Catalog }; to: Catalog; names: SourceNames },
): Promise<SourceSettings | undefined> {
  const { value: kept } = await store.settings({ person: '' }, from.id)
  const all = [from.said ?? noSettings, kept]
  const here = (table: string) => !!names.tables[table]?.table
  const columns = Object.fromEntries(
    all.flatMap(each => Object.entries(each.columns)).filter(([path]) => here(path.slice(0, path.indexOf('.')))),
  )
  const calculated = all.flatMap(each => each.calculated).filter(each => here(each.table))
  const ledger = to.ledger ? undefined : booksUnder(all.findLast(each => each.ledger)?.ledger, from.catalog, names)
  const fiscalYear = all.findLast(each => each.fiscalYear)?.fiscalYear
  if (!Object.keys(columns).length && !calculated.length && !ledger && !fiscalYear) return undefined
  return { relations: [], columns, calculated, ...(ledger ? { ledger } : {}), ...(fiscalYear ? { fiscalYear } : {}) }
}

/** The books of the source before, where all their tables and columns have a match. */
function booksUnder(ledger: LedgerMap | undefined, own: Catalog, names: SourceNames): LedgerMap | undefined {
  if (!ledger) return undefined
  const matched: TableCatalog = {
    tables: own.tables.flatMap(table => {
      const match = names.tables[table.name]
      return match?.table ? [{ ...table, columns: table.columns.filter(column => match.columns[column.name]) }] : []
    }),
    foreignKeys: [],
  }
  return ledgerLack(ledger, matched) ? undefined : ledger
}

/** Keeps a report pointed at another source as its next version. @throws ConflictError, StoreError */
export async function keepSwap(
  context: Context,
  parts: Parts,
  report: { id: string; basedOn: number; definition: ReportDefinition },
  to: string,
  names: SourceNames,
): Promise<{ version: number; definition: ReportDefinition; lacks: string[] }> {
  const { definition, lacks, named } = await pointedReady(context, parts, report.definition, to, names)
  if (named && !(await parts.store.connections(context)).some(each => each.id === named.id))
    await parts.store.connect(context, { id: named.id, name: named.name, kind: named.kind, options: named.options })
  return { version: await parts.store.save(context, report.id, report.basedOn, definition), definition, lacks }
}
