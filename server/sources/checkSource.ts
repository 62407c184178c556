import type { SourceCheck } from '../../core/api/answers'
import type { Catalog } from '../../core/books/catalog'
import { applySettings } from '../../core/books/settings'
import { findTable } from '../../core/catalog/types'
import { assembleReport } from '../../core/compose/assemble'
import type { ReportDefinition } from '../../core/definition/report'
import { dayText } from '../../core/value/date'
import type { Context } from '../access/context'
import type { Store } from '../store/store'
import { plainId, under } from './namedSource'
import { reportsOver } from './reportsOver'
import type { Sources } from './sources'

/** All that a report over a source lacks in its catalog, in sentences, each once; whatever the names are under which it reads it. */
export function lacksOf(definition: ReportDefinition, own: Catalog, source: string, sources?: Sources): string[] {
  const found = new Set<string>()
  definition.dataSets.forEach((set, at) => {
    const named = set.source !== source && plainId(set.source) === source && sources?.has(set.source) && sources.get(set.source)
    if (set.source !== source && !named) return
    const catalog = named ? under(named, own) : own
    for (const layout of definition.layouts) {
      const { tree, layout: pages } = assembleReport(definition, catalog, at, layout.name)
      for (const { sentence } of tree.problems) found.add(sentence)
      // what the rows lack, the pages lack too
      if (!tree.problems.length) for (const { sentence } of pages.problems) found.add(sentence)
    }
  })
  // tables of this source in reports that stand on another
  for (const table of definition.tables ?? []) {
    if (table.kind !== 'elsewhere' || table.source !== source) continue
    const held = findTable(own, table.table)
    if (!held) found.add(`“${table.name}” reads the table “${table.table}”, which is not there any more.`)
    for (const { name, type } of held ? table.columns : []) {
      const column = held!.columns.find(each => each.name === name)
      if (column?.type !== type)
        found.add(
          `“${table.name}” reads the column “${name}” of “${table.table}”, which is ` +
            (column ? 'of another kind now.' : 'not there any more.'),
        )
    }
  }
  return [...found]
}

/** Reports over a source that would lack something with other tables, and do not with those that are there. */
export async function newlyLacking(
  context: Context,
  { store, sources }: { store: Store; sources: Sources },
  source: string,
  { before, after }: { before: Catalog; after: Catalog },
): Promise<SourceCheck['reports']> {
  const { value: settings } = await store.settings(context, source)
  const next = applySettings(after, settings)
  const found: SourceCheck['reports'] = []
  for (const { name, definitions } of await reportsOver(context, store, source)) {
    const known = new Set(definitions.flatMap(each => lacksOf(each, before, source, sources)))
    const problems = definitions.flatMap(each => lacksOf(each, next, source, sources)).filter(sentence => !known.has(sentence))
    if (problems.length) found.push({ name, problems: [...new Set(problems)] })
  }
  return found
}

/** Reads a source anew, and tells what it holds and what reports over it lack. */
export async function checkSource(
  context: Context,
  { store, sources }: { store: Store; sources: Sources },
  id: string,
): Promise<SourceCheck> {
  const { id: source } = sources.get(id)
  const { catalog } = await sources.catalog(context, source, true)
  const away = sources.get(source).state().away
  const reports: SourceCheck['reports'] = []
  for (const { name, definitions } of await reportsOver(context, store, source)) {
    const problems = new Set(definitions.flatMap(each => lacksOf(each, catalog, source, sources)))
    if (problems.size) reports.push({ name, problems: [...problems] })
  }
  const { ledger, posted } = catalog
  return {
    reached: !away,
    ...(away ? { why: away.why } : {}),
    tables: catalog.tables.length,
    relations: catalog.foreignKeys.length,
    ...(ledger
      ? {
          books: {
            accounts: ledger.accounts.table,
            lines: ledger.lines.table,
            ...(posted ? { from: dayText(posted.first), to: dayText(posted.last) } : {}),
          },
        }
      : {}),
    reports,
  }
}
