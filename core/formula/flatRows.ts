import type { DataRecords } from '../value/records'
import { Lineage } from './lineage'
import type { LevelInfo } from './typed'

/** One row per record of a level, with the records above it that it stands under. */
export interface FlatRows {
  /** levels above, outermost first */
  above: LevelInfo[]
  /** for each row, the record of its level and of each level above, by the level's place */
  rows: Map<number, number>[]
  /** records of the level, of which the rows are the first */
  total: number
}

/** The first `most` records of a level as flat rows. */
export function flatRows(levels: readonly LevelInfo[], records: DataRecords, level: LevelInfo, most: number): FlatRows {
  const above: LevelInfo[] = []
  for (let at = level.parent; at >= 0; at = levels[at]!.parent) above.unshift(levels[at]!)
  const lineage = new Lineage(levels, records)
  const total = records.levels[level.index]!.count
  const rows = Array.from(
    { length: Math.min(total, most) },
    (_, row) => new Map([level, ...above].map(each => [each.index, lineage.up(row, level.index, each.index)])),
  )
  return { above, rows, total }
}
