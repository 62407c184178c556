import type { ColumnDefinition } from '../definition/blocks/table'

/** Widths in points that always fill the table: fixed ones as given, the rest shared; too many fixed ones shrink together. */
export function columnWidths(columns: readonly Pick<ColumnDefinition, 'width'>[], width: number): number[] {
  const least = 24
  const stretching = columns.filter(column => column.width === 0).length
  const fixed = columns.reduce((sum, column) => sum + column.width, 0)
  const room = width - stretching * least
  const factor = fixed > room || (stretching === 0 && fixed > 0) ? room / fixed : 1
  const share = stretching ? (width - fixed * factor) / stretching : 0
  return columns.map(column => (column.width === 0 ? share : column.width * factor))
}
