import type { ColumnDefinition, RowDefinition } from '../../definition/blocks/table'
import type { RowStyle, ThemeDefinition } from '../../definition/style'
import type { Standing } from '../../formula/standing'
import { columnWidths } from '../columnWidths'
import type { PreparedCell, PreparedColumn, PreparedRow, PreparedTable } from '../prepared'
import { resolveStyle, rowRole } from '../style'
import { type Frame, type Piece, titleRows } from './pieces'
import type { CheckedText } from '../text'

/** A table whose texts and figures are known; its titles are rows of `table` too. A row stands `at` a place of its own where it has one. */
export interface LiteralTable {
  table: PreparedTable
  rows: readonly { row: PreparedRow; newPage: boolean; at?: Standing }[]
}

/** A text without values in it. */
export const literal = (text: string): CheckedText => ({
  lines: text.split('\n').map(line => (line ? [{ literal: line }] : [])),
  formulas: [],
  late: false,
})

/** A row of a literal table with its look by theme and kind; cells come with their style. */
export function literalRow(
  definition: RowDefinition,
  theme: ThemeDefinition,
  own: RowStyle | undefined,
  cells: PreparedCell[],
): PreparedRow {
  const style = { ...theme.rows[rowRole(definition.kind)], ...own }
  return {
    row: definition,
    depth: -1,
    cells,
    ...(style.fill ? { fill: style.fill } : {}),
    ...('above' in style && style.above ? { above: style.above } : {}),
    ...('below' in style && style.below ? { below: style.below } : {}),
  }
}

/** One cell of a literal table; styles come after those of theme and row. */
export function literalCell(
  place: { column: number; id: string; definition: RowDefinition; theme: ThemeDefinition },
  text: CheckedText,
  ...styles: Parameters<typeof resolveStyle>[1][]
): PreparedCell {
  return {
    column: place.column,
    span: 1,
    id: place.id,
    text,
    style: resolveStyle(place.theme, place.theme.rows[rowRole(place.definition.kind)], ...styles),
  }
}

/** Columns one beside the other, from an edge on, over a width. */
export function placeColumns(definitions: readonly ColumnDefinition[], left: number, width: number): PreparedColumn[] {
  const widths = columnWidths(definitions, width)
  let x = left
  return definitions.map((column, index) => {
    const place = { column, x, width: widths[index]! }
    x += place.width
    return place
  })
}

/** The rows of a literal table in printed order. */
export function* literalPieces({ table, rows }: LiteralTable, at: Standing): Generator<Piece> {
  const frame: Frame = { table, at, started: false }
  const made = (row: PreparedRow, glue?: 'next' | 'previous', own = at): Piece => ({
    table,
    row,
    at: own,
    frame,
    carry: 0,
    withNext: glue === 'next',
    withPrevious: glue === 'previous',
    band: false,
  })
  for (const row of titleRows(table)) yield made(row, 'next')
  for (const { row, newPage, at: own } of rows)
    yield {
      ...made(row, row.row.kind === 'groupStart' ? 'next' : row.row.kind === 'groupEnd' ? 'previous' : undefined, own),
      ...(newPage ? { newPage } : {}),
    }
}
