import type { LevelInfo } from './typed'
import { type DataRecords, parentRows } from '../value/records'
import type { Covered } from './standing'

/** Is `ancestor` above `level`, or the same? */
export function isWithin(levels: readonly LevelInfo[], level: number, ancestor: number): boolean {
  for (let at = level; at >= 0; at = levels[at]!.parent) if (at === ancestor) return true
  return false
}

/** The deepest level above both (or either itself). */
export function commonLevel(levels: readonly LevelInfo[], a: number, b: number): number {
  let at = a
  while (!isWithin(levels, b, at)) at = levels[at]!.parent
  return at
}

/** Rows of ancestors for each level of some records; made once per chunk of records. */
export class Lineage {
  private readonly parents: (Int32Array | undefined)[] = []
  constructor(
    readonly levels: readonly LevelInfo[],
    readonly data: DataRecords,
  ) {}

  /** Row of the ancestor at level `to` of a record of level `from`. */
  up(row: number, from: number, to: number): number {
    let at = from
    while (at !== to) {
      row = (this.parents[at] ??= parentRows(this.data.levels[at]!))[row]!
      at = this.levels[at]!.parent
    }
    return row
  }

  /**
   * Records of the descendant level `to` under the stretch [first, end) of level `from`: again one stretch, since children lie together.
   */
  down(first: number, end: number, from: number, to: number): [number, number] {
    const path: number[] = []
    for (let at = to; at !== from; at = this.levels[at]!.parent) path.push(at)
    for (let i = path.length - 1; i >= 0; i--) {
      const { starts } = this.data.levels[path[i]!]!
      first = starts[first]!
      end = starts[end]!
    }
    return [first, end]
  }

  /**
   * The records of level `to` that a row covering [first, end) of level `from` speaks of (rule 7 of the semantics):
   * ancestors once each, descendants all, and by way of the common ancestors for a sibling branch.
   */
  *covered(first: number, end: number, from: number, to: number): Iterable<[number, number]> {
    if (isWithin(this.levels, to, from)) {
      yield this.down(first, end, from, to)
      return
    }
    const common = commonLevel(this.levels, from, to)
    let last = -1
    for (let row = first; row < end; row++) {
      const ancestor = this.up(row, from, common)
      if (ancestor !== last) yield this.down(ancestor, ancestor + 1, common, to)
      last = ancestor
    }
  }

  /** The same for rows of a table, which may stand in any order: what they cover comes in the order of the rows, each ancestor once. */
  *coveredRows(covered: Covered, from: number, to: number): Iterable<[number, number]> {
    const { rows } = covered
    const below = isWithin(this.levels, to, from)
    const common = below ? from : commonLevel(this.levels, from, to)
    const seen = new Set<number>()
    let [first, end] = [0, 0]
    for (let at = covered.from; at < covered.to; at++) {
      const row = rows[at]!
      let stretch: [number, number]
      if (to === from) stretch = [row, row + 1]
      else if (below) stretch = this.down(row, row + 1, from, to)
      else {
        const ancestor = this.up(row, from, common)
        if (seen.has(ancestor)) continue
        seen.add(ancestor)
        stretch = this.down(ancestor, ancestor + 1, common, to)
      }
      if (stretch[0] === end) end = stretch[1]
      else {
        if (end > first) yield [first, end]
        ;[first, end] = stretch
      }
    }
    if (end > first) yield [first, end]
  }
}
