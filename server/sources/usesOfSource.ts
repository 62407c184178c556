import { type Use, type UseTarget, usesElsewhere, usesOf } from '../../core/compose/uses'
import type { ReportDefinition } from '../../core/definition/report'
import { shownAs } from '../../core/swap/names'
import type { Context } from '../access/context'
import type { Store } from '../store/store'
import { NamedSource, plainId } from './namedSource'
import type { Sources } from './sources'

/** Every report that reads a table of a source or one of its columns, under whatever names, and where. */
export async function usesOfSource(
  context: Context,
  { store, sources }: { store: Store; sources: Sources },
  id: string,
  target: UseTarget,
): Promise<{ id: string; name: string; uses: Use[] }[]> {
  const source = sources.get(id)
  const { catalog } = await sources.catalog(context, source.id)
  const usesIn = async (definition: ReportDefinition): Promise<Use[]> => {
    const elsewhere = usesElsewhere(definition, source.id, target)
    const read = definition.dataSets
      .flatMap(set => (!set.source || sources.has(set.source) ? sources.get(set.source) : []))
      .find(each => each.id === source.id || plainId(each.id) === source.id)
    if (!read) return elsewhere
    if (!(read instanceof NamedSource) || read.id === source.id) return [...usesOf(definition, catalog, target), ...elsewhere]
    // read under the names of the report: its uses are those of the names
    const { catalog: shown } = await sources.catalog(context, read.id)
    return [...shownAs(catalog, read.options.names, target).flatMap(each => usesOf(definition, shown, each)), ...elsewhere]
  }
  const reports = (await store.library(context)).flatMap(shelf => shelf.reports)
  const found = await Promise.all(
    reports.map(async ({ id: report, name, version }) => ({
      id: report,
      name,
      uses: await usesIn(await store.version(context, report, version)),
    })),
  )
  return found.filter(each => each.uses.length)
}
