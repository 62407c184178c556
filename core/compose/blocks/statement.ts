import type { StatementBlock } from '../../definition/blocks/statement'
import { laidStatement } from '../statement/lay'
import { type PreparedStatement, prepareStatement, statementFields } from '../statement/prepare'
import { composeTable } from '../table/breaking'
import { literalPieces } from '../table/literal'
import { type BlockKind, said } from './contract'

/** Accounts that a line shows lie under it; those of a tree as deep as trees go. */
const depths = { tree: 7, flat: 1, closed: 0 } as const

/** Lines of a financial statement by period columns. */
export const statementKind: BlockKind<StatementBlock, PreparedStatement> = {
  kind: 'statement',
  prepare(block, under, scope) {
    const level = scope.levelNamed(block.level, block, under)
    for (const path of statementFields) if (scope.levels[level]?.fields.has(path)) scope.use(level, path)
    return prepareStatement(block, level, under, scope)
  },
  *compose(statement, at, composer) {
    const laid = laidStatement(statement, composer, at)
    yield* composeTable(composer, laid.table, at, literalPieces(laid, at))
  },
  *grid(statement, at, grid) {
    const laid = laidStatement(statement, grid.composer, at)
    yield* grid.table(laid.table, literalPieces(laid, at))
    if (statement.block.after > 4) yield grid.blank()
  },
  columns: (statement, composer) => composer && laidStatement(statement, composer).table,
  depth: ({ block }) => Math.max(0, ...block.lines.map(line => depths[line.expand === 'tree' ? 'tree' : line.expand ? 'flat' : 'closed'])),
  compared: ({ block }) => [{ block: block.id, addsUp: false, isNumber: (_, cell) => cell !== 'caption' }],
  wordings: block => ({
    texts: said(
      ...block.lines.map(line => line.caption),
      ...block.columns.map(column => column.title),
      ...(block.footnotes ?? []).map(each => each.text),
    ),
    formulas: said(block.showWhen, ...block.columns.flatMap(column => [column.span?.anchor, column.span?.to, column.versionFrom])),
  }),
  reads: () => statementFields,
}
