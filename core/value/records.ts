import type { Column } from './columns'

/** The records of one level, as columns. */
export interface LevelRecords {
  count: number
  /** by field path from the level: "amount", "item.category.name" */
  columns: Record<string, Column>
  /** first record under each parent; one more entry than there are parents. The root has [0, count]. */
  starts: Int32Array
}

/**
 * Records of all levels of a data set, in the order of `levelsOf(root)`. Children of a parent lie together, in the order of their
 * parents.
 */
export interface DataRecords {
  levels: LevelRecords[]
  /** what reports nested in the layout have read for these records, by block */
  nested?: ReadonlyMap<string, NestedRecords>
}

/** Records of a nested report, read for many answers at once where that can be: the records for each lie together. */
export interface NestedRecords {
  parts: DataRecords[]
  /** by the answers, as answersKey writes them: in which of the parts they are, and which of its roots */
  sets: ReadonlyMap<string, NestedSet>
  /** a preview has not read those for so many other answers */
  left?: number
  /** of a preview: the statements that read them */
  statements?: string[]
  /** why some could not be read, in a sentence */
  said?: string
}

export interface NestedSet {
  part: number
  from: number
  to: number
}

/** The parent's row of each record of a level. */
export function parentRows(records: LevelRecords): Int32Array {
  const parents = new Int32Array(records.count)
  for (let parent = 0; parent + 1 < records.starts.length; parent++) {
    parents.fill(parent, records.starts[parent], records.starts[parent + 1])
  }
  return parents
}
