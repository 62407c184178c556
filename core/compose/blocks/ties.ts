import type { TiesBlock } from '../../definition/blocks/ties'
import { layTies, type PreparedTies } from '../ties'
import { composeTable } from '../table/breaking'
import { literalPieces } from '../table/literal'
import { type BlockKind, said } from './contract'

/** What the report's tie-outs came to, as rows. */
export const tiesKind: BlockKind<TiesBlock, PreparedTies> = {
  kind: 'ties',
  prepare: (block, level, scope) => ({
    kind: 'ties',
    block,
    level,
    showWhen: scope.rule(block, level),
    printsTies: true,
    x: block.left,
    width: block.width || Math.max(60, scope.width - block.left),
    theme: scope.theme,
    names: scope.surroundings.tieOuts,
  }),
  *compose(ties, at, composer) {
    const { options, language } = composer.values
    const laid = layTies(ties, options.tieOuts, language)
    if (laid.rows.length) yield* composeTable(composer, laid.table, at, literalPieces(laid, at))
  },
  *grid(ties, at, grid) {
    const { options, language } = grid.values
    const laid = layTies(ties, options.tieOuts, language)
    if (laid.rows.length) yield* grid.table(laid.table, literalPieces(laid, at))
  },
  wordings: block => ({ texts: [], formulas: said(block.showWhen) }),
}
