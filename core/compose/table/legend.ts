import type { PreparedRow, PreparedTable } from '../prepared'
import { resolveStyle } from '../style'

/** One row for each look of a table: its mark and what it means, in its own style. */
export function legendRows(table: PreparedTable): PreparedRow[] {
  const first = table.columns[0]
  if (!first) return []
  return (table.block.looks ?? [])
    .filter(each => each.meaning)
    .map((each): PreparedRow => {
      const text = `${each.mark || '■'} ${each.meaning}`
      return {
        row: { id: `legend ${each.id}`, kind: 'end', cells: {} },
        depth: -1,
        cells: [
          {
            column: 0,
            span: table.columns.length,
            id: first.column.id,
            text: { lines: [[{ literal: text }]], formulas: [], late: false },
            style: resolveStyle(table.theme, table.theme.named.small, {
              colour: each.style.colour ?? '#6d655b',
              ...(each.style.fill ? { fill: each.style.fill } : {}),
              bold: !!each.style.bold,
            }),
          },
        ],
      }
    })
}
