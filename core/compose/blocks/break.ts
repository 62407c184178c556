import type { BreakBlock } from '../../definition/blocks/break'
import type { PreparedBlock } from '../prepared'
import { type BlockKind, said } from './contract'

/** What follows begins on a new page, unless it does so anyway. */
export const breakKind: BlockKind<BreakBlock, PreparedBlock> = {
  kind: 'break',
  // a break takes no room of its own
  prepare: (block, level, scope) => ({ kind: 'break', block: { ...block, after: 0 }, level, showWhen: scope.rule(block, level) }),
  *compose(_, __, { paper }) {
    if (paper.page && !paper.fresh) yield* paper.newPage()
  },
  wordings: block => ({ texts: [], formulas: said(block.showWhen) }),
}
