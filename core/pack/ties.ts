import type { TieFigure, TieOutResult } from '../definition/tieOuts'
import { checkTieOuts, TieOutError } from '../tieout/check'
import { add, type Decimal, zero } from '../value/decimal'
import type { PackTie } from './definition'

/** A figure of a run of a report of a pack, or the sentence why there is none. */
export type PackFigure = Decimal | { sentence: string }

/**
 * Holds figures of reports of a pack against one another. Of a report that is repeated, the figures of all its runs are added up: a sum
 * over branches is held against the whole.
 * @param figures of each run of a report, by the report's name in the pack
 */
export function packTies(ties: readonly PackTie[], figures: (report: string, figure: TieFigure) => readonly PackFigure[]): TieOutResult[] {
  return ties.flatMap(tie => {
    const of = (side: PackTie['left']): Decimal => {
      const found = figures(side.report, side.figure)
      if (!found.length)
        throw new TieOutError(`The report “${side.report}” was not run, so there is nothing to hold “${tie.name}” against.`)
      let sum = zero
      for (const each of found) {
        if ('sentence' in each) throw new TieOutError(each.sentence)
        sum = add(sum, each)
      }
      return sum
    }
    // each is checked by itself: the same figure of two reports is two figures
    const { id, name, tolerance, left, right } = tie
    return checkTieOuts([{ id, name, tolerance, left: left.figure, right: right.figure }], at => of(at === left.figure ? left : right))
  })
}
