import { keyAt } from '../../../core/compose/nested/found'
import type { PreparedNested } from '../../../core/compose/nested/prepare'
import { preparedInside } from '../../../core/compose/layoutWalk'
import type { PreparedLayout } from '../../../core/compose/prepared'
import { Values } from '../../../core/compose/values'
import { isNested } from '../../../core/definition/blocks/nested'
import type { Standing } from '../../../core/formula/standing'
import type { LevelInfo } from '../../../core/formula/typed'
import { nestedPlaces } from '../../../core/model/nested'
import type { Fetch } from '../../../core/read/read'
import { columnOf } from '../../../core/value/columns'
import type { DataRecords, NestedRecords } from '../../../core/value/records'
import type { Value } from '../../../core/value/value'
import type { ReadyRun } from '../ready'
import type { NestedRun, NestedRuns } from './ready'
import { NestedSets } from './sets'
import { totalsOf } from './totals'

/** For which layouts nested reports are read: the one that is printed, or all that an author may look at. */
export type NestedWanted = 'own' | 'all'

/** A nested report where it stands. */
interface Standings {
  nested: PreparedNested
  run: NestedRun
  /** the level whose records it stands in; none in the flow */
  level: LevelInfo | undefined
  sets: NestedSets
}

/** What a report is, with others nested in it. */
type Around = Pick<ReadyRun, 'report' | 'definition' | 'today' | 'catalog'> & { parameters?: ReadyRun['parameters']; source: string }

/** Reads the reports nested in another for its records, chunk after chunk: once for all records of a chunk, never once for each. */
export class NestedReader {
  private readonly places: Standings[]
  private readonly values: Values

  constructor(
    private readonly run: Around,
    inside: NestedRuns,
    wanted: NestedWanted,
  ) {
    const { report, today, catalog } = run
    const layouts: PreparedLayout[] = wanted === 'all' ? [report.layout, ...report.others()] : [report.layout]
    const definitions = wanted === 'all' ? run.definition.layouts : [report.layoutDefinition]
    const levels = new Map(nestedPlaces({ layouts: definitions }).map(({ block, level }) => [block.id, level]))
    this.places = layouts
      .flatMap(layout => preparedInside(layout.blocks))
      .filter((block): block is PreparedNested => isNested(block.block as PreparedNested['block']))
      .flatMap((nested): Standings[] => {
        const own = inside.get(nested.block.id)
        if (!own) return []
        const level = report.tree.levels.find(each => each.name === levels.get(nested.block.id))
        return [{ nested, run: own, level, sets: new NestedSets(own, nested.block, wanted === 'all', innerReader(own)) }]
      })
    this.values = new Values(report.layout.language, {
      levels: report.tree.levels,
      parameters: run.parameters ?? {},
      today,
      ...(catalog.calendar ? { calendar: catalog.calendar } : {}),
    })
  }

  /** Adds what is nested to records, and the totals that it hands out to their levels. */
  async read(records: DataRecords, fetch: Fetch, parameters = this.run.parameters ?? {}): Promise<void> {
    if (!this.places.length) return
    const values = parameters === this.values.options.parameters ? this.values : this.valuesWith(parameters)
    values.use(records)
    // formulas are worked out before the first of them waits: the next chunk may come meanwhile
    const asked = this.places.map(place => ({ place, keys: keysOf(place, values, records) }))
    const found = new Map<string, NestedRecords>()
    for (const { place, keys } of asked) {
      const { nested, run } = place
      const read = await place.sets.read([...new Set(keys.flatMap(key => key ?? []))], this.fetchFor(run, fetch))
      found.set(nested.block.id, read)
      if (place.level && nested.block.totals?.length) addTotals(records, place, keys, read)
    }
    records.nested = found
  }

  private valuesWith(parameters: ReadyRun['parameters']): Values {
    return new Values(this.values.language, { ...this.values.options, parameters })
  }

  private fetchFor({ source }: NestedRun, fetch: Fetch): Fetch {
    return source === this.run.source ? fetch : query => fetch(query, source)
  }
}

/** Reads what is nested in a nested report. */
const innerReader = (own: NestedRun): NestedReader | undefined => own.inside && new NestedReader(own, own.inside, 'own')

/** The answers of each place where a report stands, by record, or once for all; none where its rule does not hold. */
function keysOf({ nested, level }: Standings, values: Values, { levels }: DataRecords): (string | undefined)[] {
  const at = (own: Standing) => (nested.showWhen && !values.holds(nested.showWhen, own) ? undefined : keyAt(nested, values, own))
  if (!level) return [at({ level: 0, from: 0, to: levels[0]!.count })]
  return Array.from({ length: levels[level.index]!.count }, (_, row) => at({ level: level.index, from: row, to: row + 1 }))
}

function addTotals(
  records: DataRecords,
  { nested, run, level }: Standings,
  keys: readonly (string | undefined)[],
  read: NestedRecords,
): void {
  const known = new Map<string, readonly Value[]>()
  const totals = totalsOf(run, nested, read)
  const of = (key: string | undefined) => {
    if (key === undefined) return undefined
    let found = known.get(key)
    if (!found) known.set(key, (found = totals(key)))
    return found
  }
  const byKey = keys.map(of)
  for (const { name, type } of nested.block.totals ?? []) {
    const at = run.totals.findIndex(each => each.name === name)
    records.levels[level!.index]!.columns[`${nested.block.id}.${name}`] = columnOf(
      type,
      byKey.map(values => values?.[at] ?? null),
    )
  }
}
