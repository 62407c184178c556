import type { NestedBlock } from '../../definition/blocks/nested'
import { FormulaError } from '../../formula/syntax'
import type { Typed } from '../../formula/typed'
import type { PreparedBlock } from '../prepared'
import type { PrepareScope } from '../prepareScope'

export interface PreparedNested extends PreparedBlock {
  kind: 'nested'
  block: NestedBlock
  x: number
  width: number
  /** in the order of the block's; one with a fault gives nothing */
  feeds: (Typed | undefined)[]
}

/** Checks the formulas that answer its parameters. */
export function prepareNested(block: NestedBlock, level: number, scope: PrepareScope): PreparedNested {
  return {
    kind: 'nested',
    block,
    level,
    showWhen: scope.rule(block, level),
    columnsByRecords: true,
    x: block.left,
    width: block.width || Math.max(60, scope.width - block.left),
    feeds: block.feeds.map(({ parameter, formula }) => {
      const at = { block: block.id, cell: `feed ${parameter}`, place: 'text' as const }
      if (formula.trim()) return scope.formula(formula, scope.at(level), at, false)
      const fault = new FormulaError(`Say what answers “${parameter}”, or take it out so that it takes its default.`, 0, 0)
      scope.problem({ ...at, sentence: fault.message, from: 0, to: 0 })
      return undefined
    }),
  }
}
