import type { Standing } from '../../formula/standing'
import { type Crossed, crossGroups } from '../../shape/cross'
import type { Place } from '../place'
import type { PreparedGroup } from '../prepared'
import { groupingPlace, groupOrders, groupShape } from '../table/grouping'
import { Figures } from './figures'
import type { AxisGroup } from '../../definition/blocks/crosstab'
import type { PreparedCrosstab } from './prepare'

/** Records in the groups of both axes, with what their measures come to. */
export interface CrossedRecords {
  /** records of the block's level under the record in which it stands */
  records: Int32Array
  crossed: Crossed
  figures: Figures
}

/** Crossed records that are kept: those of the records of a few repeats, and of the edits before. */
const mostKept = 64

/** What of the groups of an axis decides which records they hold, in which order. */
const groupsOf = (groups: readonly AxisGroup[]) =>
  groups.map(({ id, by, step, edges, order, none, top, having, every }) => [id, by, step, edges, order, none, top, having, every])

/** Values by their keys, those used last. */
class LastUsed<T> {
  private readonly kept = new Map<string, T>()
  constructor(private readonly most: number) {}

  get(key: string): T | undefined {
    const found = this.kept.get(key)
    if (found !== undefined) {
      this.kept.delete(key)
      this.kept.set(key, found)
    }
    return found
  }

  set(key: string, value: T): void {
    this.kept.set(key, value)
    if (this.kept.size > this.most) this.kept.delete(this.kept.keys().next().value!)
  }
}

/** The records of a crosstab by its axes, found once for the records at hand; inside a repeat, for those under its record. */
export function crossedUnder(prepared: PreparedCrosstab, { values }: Pick<Place, 'values'>, within?: Standing): CrossedRecords {
  const at: Standing = within ?? { level: 0, from: 0, to: values.data.levels[0]!.count }
  const stretches = at.from < at.to ? [...values.lineage.covered(at.from, at.to, at.level, prepared.level)] : []
  // what the author wrote, not the objects that it was made into: an edit that leaves the groups as they are finds them again
  const known = values.memo(crossedUnder, () => new LastUsed<CrossedRecords>(mostKept))
  const { rows, columns } = prepared.block
  const key = JSON.stringify([values.language, prepared.level, stretches, groupsOf(rows), groupsOf(columns)])
  let found = known.get(key)
  if (!found) {
    const records = new Int32Array(stretches.reduce((sum, [from, to]) => sum + to - from, 0))
    let next = 0
    for (const [from, to] of stretches) for (let record = from; record < to; record++) records[next++] = record
    const grouping = groupingPlace(values)
    const shapes = (groups: readonly PreparedGroup[]) => groups.map((group, depth) => groupShape(group, depth, prepared.level, grouping))
    const crossed = crossGroups(records, shapes(prepared.rows), shapes(prepared.columns), groupOrders)
    known.set(key, (found = { records, crossed, figures: new Figures(prepared.level, crossed, values) }))
  }
  return found
}
