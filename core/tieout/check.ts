import type { TieFigure, TieOut, TieOutResult } from '../definition/tieOuts'
import { absolute, compareDecimals, type Decimal, decimalText, parseDecimal, subtract, trim, zero } from '../value/decimal'

/** A figure of a tie-out that cannot be found: one sentence. */
export class TieOutError extends Error {}

/** Holds the two figures of each tie-out against one another; one that cannot be worked out does not hold and says why. */
export function checkTieOuts(tieOuts: readonly TieOut[], figure: (of: TieFigure) => Decimal | null): TieOutResult[] {
  return tieOuts.map(({ id, name, left, right, tolerance }): TieOutResult => {
    try {
      const [a, b] = [left, right].map(of => figure(of) ?? zero) as [Decimal, Decimal]
      const difference = subtract(a, b)
      const allowed = absolute(parseDecimal(tolerance.trim()) ?? zero)
      return {
        id,
        name,
        left: written(a),
        right: written(b),
        difference: written(difference),
        holds: compareDecimals(absolute(difference), allowed) <= 0,
      }
    } catch (error) {
      if (!(error instanceof TieOutError)) throw error
      return { id, name, holds: false, sentence: error.message }
    }
  })
}

const written = (value: Decimal) => decimalText(trim(value))
