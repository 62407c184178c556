import type { ReportDefinition } from '../../core/definition/report'
import type { Context } from '../access/context'
import type { Store } from '../store/store'
import { plainId } from './namedSource'

/** A report that reads a source, as its author has it and, where that is another, as readers run it. */
export interface ReportOver {
  id: string
  name: string
  definitions: ReportDefinition[]
}

/** All reports that read a source, under whatever names: what readers run may still read what its author has let go of. */
export async function reportsOver(context: Context, store: Store, source: string): Promise<ReportOver[]> {
  const found: ReportOver[] = []
  for (const { reports } of await store.library(context))
    for (const { id, name, version, published } of reports) {
      const versions = new Set([version, ...(published === null ? [] : [published])])
      const all = await Promise.all([...versions].map(number => store.version(context, id, number)))
      const definitions = all.filter(({ dataSets, tables = [] }) =>
        [...dataSets, ...tables.filter(table => table.kind === 'elsewhere')].some(
          each => plainId(each.source) === source || each.source === source,
        ),
      )
      if (definitions.length) found.push({ id, name, definitions })
    }
  return found
}
