import type { TableBlock } from '../../definition/blocks/table'
import { composeTable } from '../table/breaking'
import { pieces } from '../table/pieces'
import { prepareTable } from '../table/prepare'
import type { PreparedTable } from '../prepared'
import { type BlockKind, said } from './contract'

/** Rows of one level in groups, with tables of levels below in its rows. */
export const tableKind: BlockKind<TableBlock, PreparedTable> = {
  kind: 'table',
  prepare: (block, under, scope) => prepareTable(block, under, scope),
  *compose(table, at, composer) {
    const { paper } = composer
    if (table.payments) composer.payments?.(table, table.payments, at)
    // at the bottom of the page: it is laid out with all the room it needs first
    if (table.block.atBottom && !paper.nested) {
      paper.open()
      const height = paper.measured(() => {
        for (const _ of composeTable(composer, table, at));
      })
      if (paper.y + height <= paper.bodyBottom) paper.y = paper.bodyBottom - height
    }
    yield* composeTable(composer, table, at)
  },
  *grid(table, at, grid) {
    yield* grid.table(table, pieces(grid.composer, table, at, undefined, undefined))
    if (table.block.after > 4) yield grid.blank()
  },
  columns: table => table,
  depth: tableDepth,
  textAt: (table, { block, rowId, cell }) =>
    tablesIn(table)
      .find(each => each.block.id === block)
      ?.rows.find(row => row.row.id === rowId)
      ?.cells.find(each => each.id === cell)?.text,
  compared: table => tablesIn(table).map(each => ({ block: each.block.id, addsUp: true, isNumber: numbersOf(each) })),
  wordings: block => ({
    texts: block.rows.flatMap(row => Object.values(row.cells).map(cell => cell.text)),
    groups: block.groups.map(group => group.id),
    formulas: said(
      block.showWhen,
      ...block.rows.flatMap(row => [row.when, ...Object.values(row.cells).flatMap(cell => [cell.when, cell.picture])]),
      ...(block.looks ?? []).map(each => each.when),
      ...(block.sort ?? []).map(each => each.field),
      ...Object.values(block.payments?.terms ?? {}),
      ...block.groups.flatMap(group => [group.by, group.having, group.order.total, group.top?.total]),
    ),
  }),
}

/** A table and those in its rows. */
function tablesIn(table: PreparedTable): PreparedTable[] {
  return [table, ...table.rows.flatMap(row => (row.nested ? tablesIn(row.nested) : []))]
}

function numbersOf(table: PreparedTable): (row: string, cell: string) => boolean {
  const found = new Set(
    table.rows.flatMap(row => row.cells.filter(cell => cell.pattern !== undefined).map(cell => `${row.row.id} ${cell.id}`)),
  )
  return (row, cell) => found.has(`${row} ${cell}`)
}

function tableDepth(table: PreparedTable): number {
  return table.groups.length + 1 + Math.max(0, ...table.rows.map(row => (row.nested ? tableDepth(row.nested) : 0)))
}
