import type { Standing } from '../../formula/standing'
import { type Crossed, crossGroups } from '../../shape/cross'
import type { Place } from '../place'
import type { PreparedGroup } from '../prepared'
import { groupingPlace, groupOrders, groupShape } from '../table/grouping'
import { Figures } from './figures'
import type { PreparedCrosstab } from './prepare'

/** Records in the groups of both axes, with what their measures come to. */
export interface CrossedRecords {
  /** records of the block's level under the record in which it stands */
  records: Int32Array
  crossed: Crossed
  figures: Figures
}

/** The records of a crosstab by its axes, found once for the records at hand; inside a repeat, for those under its record. */
export function crossedUnder(prepared: PreparedCrosstab, { values }: Pick<Place, 'values'>, within?: Standing): CrossedRecords {
  const at: Standing = within ?? { level: 0, from: 0, to: values.data.levels[0]!.count }
  const stretches = at.from < at.to ? [...values.lineage.covered(at.from, at.to, at.level, prepared.level)] : []
  const known = values.memo(prepared.measures, () => new Map<string, CrossedRecords>())
  const key = `${values.language} ${JSON.stringify(stretches)}`
  let found = known.get(key)
  if (!found) {
    const records = new Int32Array(stretches.reduce((sum, [from, to]) => sum + to - from, 0))
    let next = 0
    for (const [from, to] of stretches) for (let record = from; record < to; record++) records[next++] = record
    const grouping = groupingPlace(values)
    const shapes = (groups: readonly PreparedGroup[]) => groups.map((group, depth) => groupShape(group, depth, prepared.level, grouping))
    const crossed = crossGroups(records, shapes(prepared.rows), shapes(prepared.columns), groupOrders)
    known.set(key, (found = { records, crossed, figures: new Figures(prepared, crossed, values) }))
  }
  return found
}
