import type { GroupNode, Standing } from '../../formula/standing'
import type { Place } from '../place'
import type { PreparedTable } from '../prepared'
import { shapedRows } from './grouping'

/** The records of a table where it stands, in its groups and order, and where each stretch of them stands. */
export interface StandingRows {
  rows: Int32Array
  root: GroupNode
  standing: (from: number, to: number, node: GroupNode) => Standing
}

/** The rows of a table at a record: grouped, sorted, and without groups that its rules leave out. */
export function standingRows(place: Place, table: PreparedTable, at: Standing): StandingRows {
  const { level } = table
  const stretches = [...place.values.lineage.covered(at.from, at.to, at.level, level)]
  const count = at.from < at.to ? stretches.reduce((sum, [from, to]) => sum + to - from, 0) : 0
  const records = new Int32Array(count)
  let next = 0
  if (count) for (const [from, to] of stretches) for (let row = from; row < to; row++) records[next++] = row
  const { rows, root } = shapedRows(place, table, records)
  const standing = (from: number, to: number, node: GroupNode): Standing => ({
    level,
    from: rows[from] ?? 0,
    to: from < to ? rows[from]! + 1 : 0,
    covered: { rows, from, to, node },
    outer: at,
  })
  return { rows, root, standing }
}
