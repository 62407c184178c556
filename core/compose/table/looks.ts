import type { Place } from '../place'
import type { PreparedCell, PreparedRow, PreparedTable } from '../prepared'
import type { Standing } from '../../formula/standing'
import { type ResolvedStyle, resolveStyle } from '../style'
import type { TextStyle } from '../../definition/style'

/** The style of a cell with the looks that hold for its row, and their sign. */
export function styled(
  place: Place,
  table: PreparedTable,
  row: PreparedRow,
  cell: PreparedCell,
  at: Standing,
): { style: ResolvedStyle; mark: string } {
  let mark = ''
  const put: TextStyle[] = []
  for (const each of table.looks) {
    if (!each.kinds.has(row.row.kind) || (each.columns.size && !each.columns.has(cell.id)) || !place.values.holds(each.when, at)) continue
    put.push(each.style)
    if (each.mark && (each.columns.size || cell.column === 0)) mark = each.mark
  }
  if (!put.length) return { style: cell.style, mark }
  return {
    style: lookedStyle(cell, put, () =>
      resolveStyle(
        table.theme,
        table.columns[cell.column]!.column.style,
        table.theme.rows[row.row.kind === 'forward' || row.row.kind === 'brought' ? 'carried' : row.row.kind],
        row.row.style,
        row.row.cells[cell.id]?.style,
        ...put,
      ),
    ),
    mark,
  }
}

const styles = new WeakMap<PreparedCell, { put: readonly object[]; style: ResolvedStyle }[]>()
/** A cell's style with the looks that hold, worked out once for each set of looks. */
function lookedStyle(cell: PreparedCell, put: readonly object[], make: () => ResolvedStyle): ResolvedStyle {
  const known = styles.get(cell) ?? []
  const found = known.find(each => each.put.length === put.length && each.put.every((style, index) => style === put[index]))
  if (found) return found.style
  const style = make()
  styles.set(cell, [...known, { put, style }])
  return style
}
