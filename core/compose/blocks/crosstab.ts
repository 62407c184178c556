import type { CrosstabBlock } from '../../definition/blocks/crosstab'
import { crosstabCells } from '../crosstab/cells'
import { laidCrosstab } from '../crosstab/lay'
import { composeParts } from '../crosstab/pages'
import { type PreparedCrosstab, prepareCrosstab } from '../crosstab/prepare'
import { literalPieces } from '../table/literal'
import { type BlockKind, said } from './contract'

/** Groups down the left and across the top, with figures where they meet. */
export const crosstabKind: BlockKind<CrosstabBlock, PreparedCrosstab> = {
  kind: 'crosstab',
  prepare: (block, under, scope) => prepareCrosstab(block, scope.levelNamed(block.level, block, under), under, scope),
  *compose(crosstab, at, composer) {
    const { parts } = laidCrosstab(crosstab, composer, at)
    yield* composeParts(parts, crosstab.block.wide, at, composer)
  },
  *grid(crosstab, at, grid) {
    const whole = laidCrosstab(crosstab, grid.composer, at).whole()
    yield { cells: crosstabCells(crosstab, at, grid) }
    yield* grid.table(whole.table, literalPieces(whole, at))
    if (crosstab.block.after > 4) yield grid.blank()
  },
  columns: (crosstab, place) => place && laidCrosstab(crosstab, place).whole().table,
  cellByCell: true,
  depth: () => 1,
  textAt: ({ block, measures }, at) =>
    at.block === block.id
      ? measures.find(({ measure: { id } }) => at.cell.endsWith(` ${id}`) || (block.stacked && at.rowId?.endsWith(` ${id}`)))?.text
      : undefined,
  compared: ({ block }) => [{ block: block.id, addsUp: false, isNumber: (_, cell) => /^(at|total) /.test(cell) }],
  wordings: block => ({
    texts: said(
      ...block.measures.map(each => each.caption),
      ...[...block.rows, ...block.columns].flatMap(each => [each.caption, each.totalCaption]),
    ),
    formulas: said(
      block.showWhen,
      ...block.measures.map(each => each.formula),
      ...[...block.rows, ...block.columns].flatMap(group => [
        group.by,
        group.having,
        group.order.total,
        group.top?.total,
        group.every?.from,
        group.every?.to,
      ]),
    ),
    groups: [...block.rows, ...block.columns].map(group => group.id),
  }),
}
