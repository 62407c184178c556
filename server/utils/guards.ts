import { findTable } from '../../core/catalog/types'
import type { GuardCount, GuardsInfo, SourceText } from '../../core/api/guards'
import type { Guard } from '../../core/guard/guards'
import { guardRefusal } from '../../core/guard/refusal'
import { bound } from '../../core/catalog/dialect'
import { valueAt } from '../../core/value/columns'
import { sql } from 'drizzle-orm'
import type { Context } from '../access/context'
import type { Estante } from '../estante'
import { guardedSnapshot, ownSight } from '../sources/guarded'
import { plainId } from '../sources/namedSource'
import { StoreError } from '../store/records'

/** The guards of a source; of one that cannot guard SQL texts itself, also those that reports read it by. */
export async function guardsOf(context: Context, app: Estante, id: string): Promise<GuardsInfo> {
  const source = app.sources.get(plainId(app.sources.get(id).id))
  const { value, version } = await app.store.guards(context, source.id)
  const { catalog } = await app.sources.catalog(context, source.id)
  return {
    guards: value.guards,
    version,
    tables: catalog.tables.map(({ name, columns }) => ({
      name,
      columns: columns.map(each => ({ name: each.name, type: each.type })),
      relations: catalog.foreignKeys
        .filter(key => key.from.table === name && key.to.table !== name)
        .map(key => ({ key: key.name, columns: key.from.columns, table: key.to.table })),
    })),
    guardsTexts: source.guardsTexts?.() ?? false,
    parsed: value.parsed ?? false,
    texts: (await textsOver(context, app, source.id)).map(each => {
      const found = value.released.find(known => known.text === each.text)
      return found ? { ...each, released: { by: found.by, at: found.at } } : each
    }),
  }
}

/** SQL texts of reports over a source: of their drafts, and of what is published. */
async function textsOver(context: Context, app: Estante, id: string): Promise<SourceText[]> {
  const found: SourceText[] = []
  for (const shelf of await app.store.library(context))
    for (const report of shelf.reports)
      for (const version of new Set([report.version, report.published ?? report.version])) {
        const definition = await app.store.version(context, report.id, version)
        const reads = definition.dataSets.some(set => app.sources.has(set.source) && plainId(app.sources.get(set.source).id) === id)
        for (const table of reads ? (definition.tables ?? []) : [])
          if (table.kind === 'sql' && !found.some(each => each.text === table.text && each.report === report.name))
            found.push({ report: report.name, name: table.name, text: table.text })
      }
  return found
}

/** @throws StoreError where one of them cannot be kept, or they were changed since `basedOn` */
export async function keepGuards(
  context: Context,
  app: Estante,
  id: string,
  { guards, released, parsed, basedOn }: { guards: readonly Guard[]; released: readonly string[]; parsed: boolean; basedOn: number },
): Promise<number> {
  const source = app.sources.get(plainId(app.sources.get(id).id))
  const [{ catalog }, teams, { value }] = [
    await app.sources.catalog(context, source.id),
    new Set((await app.store.teams.list(context)).map(each => each.id)),
    await app.store.guards(context, source.id),
  ]
  const before = new Set(value.guards.map(each => JSON.stringify(each)))
  for (const each of guards) {
    // one that was kept before may have lost its column since: it shows nothing until it is mended, and keeps nobody from mending others
    if (before.has(JSON.stringify(each))) continue
    const refusal = guardRefusal(each, catalog, teams, guards)
    if (refusal) throw new StoreError(refusal, 422)
  }
  const at = new Date().toISOString()
  const by = context.signedIn?.name ?? ''
  const next = released.map(text => value.released.find(each => each.text === text) ?? { text, by, at })
  return app.store.saveGuards(context, source.id, { guards: [...guards], released: next, parsed }, basedOn)
}

/** How many records a team sees by some guards, of how many. */
export async function countGuarded(
  context: Context,
  app: Estante,
  id: string,
  { guards, team: teamId, table }: { guards: readonly Guard[]; team: string; table: string },
): Promise<GuardCount> {
  const source = app.sources.get(plainId(app.sources.get(id).id))
  const { catalog } = await app.sources.catalog(context, source.id)
  const team = await app.store.teams.find(context, teamId)
  if (!team) throw new StoreError('This team is not here any more; choose another.', 404)
  if (!findTable(catalog, table)) throw new StoreError(`There is no table “${table}” in the source; choose another.`, 404)
  for (const each of guards.filter(own => own.team === teamId && own.table === table)) {
    const refusal = guardRefusal(each, catalog, new Set([teamId]), guards)
    if (refusal) return { fault: refusal }
  }
  const observer = { teams: [team.id], attributes: team.attributes }
  const sight = ownSight(source.id, catalog, { guards: [...guards], released: [] }, [observer], source.clock())
  const query = {
    ...bound(sql`select count(*) from ${sql.identifier(source.schema)}.${sql.identifier(table)} as t`),
    columns: [{ path: 'count', type: 'number' as const, scale: 0 }],
  }
  const options = { timeLimit: 15_000 }
  return app.sources.reading(context, source.id, async snapshot => {
    const seen = sight.key ? guardedSnapshot(snapshot, catalog, source.schema, sight) : snapshot
    const [own, all] = [await seen.query(query, options), await snapshot.query(query, options)]
    const count = (rows: typeof own) => (valueAt(rows.columns[0]!, 0) as { units: number }).units
    return { seen: count(own), all: count(all), ...(sight.faults[0] ? { fault: sight.faults[0] } : {}) }
  })
}
