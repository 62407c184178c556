import type { JoinPair } from '../catalog/types'
import type { LevelDefinition, RelatedDefinition } from './levels'
import type { ReportDefinition } from './report'

/** Where a level joins a table of the report's own: the table beside which its records are sought, and by which columns. */
export interface JoinTo {
  /** of the data set in which it is joined */
  source: string
  on: readonly JoinPair[]
  table: string
  /** the level of that table, where its records are sought and not those of a related one */
  level?: LevelDefinition
}

/**
 * All joins to one of the report's own tables; nothing where it is also read otherwise: as a root, in a stack, by another table, or beside
 * one that is the report's own too.
 */
export function joinsTo(definition: ReportDefinition, name: string): JoinTo[] | undefined {
  const wanted = `@${name}`
  const found: JoinTo[] = []
  const look = (source: string, level: LevelDefinition) => {
    const add = (on: readonly JoinPair[]) => found.push({ source, on, table: level.table, level })
    for (const each of [...level.details, ...(level.totals ?? [])]) if (each.table === wanted) add(each.on)
    const lookRelated = (table: string, related: readonly RelatedDefinition[], own?: LevelDefinition) => {
      for (const each of related) {
        if (each.table === wanted) found.push({ source, on: each.on, table, ...(own ? { level: own } : {}) })
        lookRelated(each.table, each.related)
      }
    }
    lookRelated(level.table, level.related, level)
    level.details.forEach(detail => look(source, detail))
  }
  for (const { source, root } of definition.dataSets) look(source, root)
  const times = JSON.stringify(definition).split(JSON.stringify(wanted)).length - 1
  return found.length === times && !found.some(each => each.table.startsWith('@')) ? found : undefined
}
