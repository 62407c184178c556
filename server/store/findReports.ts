import type { LibraryHit } from '../../core/api/answers'
import { kindOf } from '../../core/compose/blocks/registry'
import type { ReportDefinition } from '../../core/definition/report'
import { blocksOf } from '../../core/definition/walk'
import { tablesOf } from '../../core/model/model'
import { folded } from '../../core/value/text'
import type { Context } from '../access/context'
import type { Store } from './store'

/** Tables that a report reads, its own ones among them by their names. */
const tablesRead = (definition: ReportDefinition): string[] => [
  ...new Set([
    ...definition.dataSets.flatMap(set => tablesOf(set.root)),
    ...(definition.tables ?? []).flatMap(table => ('table' in table ? [table.table] : 'base' in table ? tablesOf(table.base) : [])),
  ]),
]

/** Texts on the pages of a report, as their author wrote them. */
const textsOn = (definition: ReportDefinition): string[] =>
  definition.layouts.flatMap(layout => blocksOf(layout).flatMap(block => kindOf(block).wordings(block).texts))

/** Reports whose name, tables or texts hold some words, with what was found; case and accents do not matter. Names come first. */
export async function findReports(context: Context, store: Store, search: string): Promise<LibraryHit[]> {
  const words = folded(search).split(/\s+/).filter(Boolean)
  if (!words.length) return []
  const holds = (text: string) => words.every(word => folded(text).includes(word))
  const all = (await store.library(context)).flatMap(shelf => shelf.reports)
  const hits = await Promise.all(
    all.map(async ({ id, name, version }): Promise<LibraryHit[]> => {
      if (holds(name)) return [{ id, why: 'name', what: name }]
      const definition = await store.version(context, id, version)
      const table = tablesRead(definition).find(each => holds(each.replaceAll('_', ' ')) || holds(each))
      if (table) return [{ id, why: 'table', what: table }]
      const text = textsOn(definition).find(holds)
      return text === undefined ? [] : [{ id, why: 'text', what: text.length > 80 ? `${text.slice(0, 79)}…` : text }]
    }),
  )
  const order = { name: 0, table: 1, text: 2 }
  return hits.flat().sort((a, b) => order[a.why] - order[b.why])
}
