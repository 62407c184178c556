import { LRUCache } from 'lru-cache'
import type { LibraryHit } from '../../core/api/answers'
import { kindOf } from '../../core/compose/blocks/registry'
import type { ReportDefinition } from '../../core/definition/report'
import { blocksOf } from '../../core/definition/walk'
import { tablesOf } from '../../core/model/model'
import { folded } from '../../core/value/text'
import type { Context } from '../access/context'
import { mayBe } from '../access/need'
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

/** What can be found of versions, which never change: their definitions are read and checked once. */
const known = new LRUCache<string, { tables: string[]; texts: string[] }>({ max: 5000 })

async function wordsIn(context: Context, store: Store, id: string, version: number): Promise<{ tables: string[]; texts: string[] }> {
  const key = `${id} ${version}`
  let found = known.get(key)
  if (!found) {
    const definition = await store.version(context, id, version)
    known.set(key, (found = { tables: tablesRead(definition), texts: textsOn(definition) }))
  }
  return found
}

/** Reports whose name, tables or texts hold some words, with what was found; case and accents do not matter. Names come first. */
export async function findReports(context: Context, store: Store, search: string): Promise<LibraryHit[]> {
  const words = folded(search).split(/\s+/).filter(Boolean)
  if (!words.length) return []
  const holds = (text: string) => words.every(word => folded(text).includes(word))
  const all = (await store.library(context)).flatMap(shelf => shelf.reports)
  const hits: LibraryHit[] = []
  for (const { id, name, version: draft, published } of all) {
    const version = mayBe(context, 'author') ? draft : published!
    if (holds(name)) {
      hits.push({ id, why: 'name', what: name })
      continue
    }
    const { tables, texts } = await wordsIn(context, store, id, version)
    const table = tables.find(each => holds(each.replaceAll('_', ' ')) || holds(each))
    const text = table === undefined ? texts.find(holds) : undefined
    if (table !== undefined) hits.push({ id, why: 'table', what: table })
    else if (text !== undefined) hits.push({ id, why: 'text', what: text.length > 80 ? `${text.slice(0, 79)}…` : text })
  }
  const order = { name: 0, table: 1, text: 2 }
  return hits.sort((a, b) => order[a.why] - order[b.why])
}
