import type { StatementBlock } from '../../definition/blocks/statement'
import type { ColumnDefinition, RowKind } from '../../definition/blocks/table'
import type { TextStyle, ThemeDefinition } from '../../definition/style'
import type { StandingColumn } from '../../statement/columns'
import type { Decimal } from '../../value/decimal'
import { textWidth } from '../fonts'
import type { Remedy } from '../notices'
import { resolveStyle, rowRole } from '../style'

/** A row of a statement before it is laid out: what is printed in it, and how. */
export interface DraftRow {
  id: string
  kind: RowKind
  own?: TextStyle | undefined
  caption: string
  /** steps of 10 points */
  indent: number
  figures: readonly { value: Decimal | null; pattern: string }[]
}

export interface FittedColumns {
  definitions: ColumnDefinition[]
  /** all sizes are multiplied by it, so that figures stay within their columns and alike */
  factor: number
}

/** Sizes go down to this, not further. */
const leastFactor = 0.6
/** Points that captions can count on before everything is written smaller. */
const captionRoom = 170

/** Columns as wide as their figures and titles; where all do not fit into the width, everything is written smaller by the same factor. */
export function fitColumns(
  rows: readonly DraftRow[],
  columns: readonly Pick<StandingColumn, 'id' | 'column'>[],
  titles: readonly string[],
  theme: ThemeDefinition,
  width: number,
  print: (value: Decimal, pattern: string) => string,
): FittedColumns {
  const pad = 2 * theme.padding.x + 2
  const sized = (text: string, kind: RowKind, ...own: (TextStyle | undefined)[]) => {
    const { font, size } = resolveStyle(theme, own[0], theme.rows[rowRole(kind)], own[1])
    return textWidth(text, font, size)
  }
  const styles = columns.map(({ column }): TextStyle => ({ align: 'right', ...column.style }))
  const natural = columns.map(({ column }, index) =>
    column.width
      ? 0
      : Math.max(
          30 - pad,
          ...rows.map(row =>
            row.figures[index]?.value
              ? sized(print(row.figures[index].value, row.figures[index].pattern), row.kind, styles[index], row.own)
              : 0,
          ),
          // a short title stands on one line, a longer one is broken between words
          ...titles[index]!.split(titles[index]!.length <= 12 ? '\n' : /\s+/).map(word => sized(word, 'titles', styles[index])),
        ),
  )
  const caption = Math.min(captionRoom, Math.max(0, ...rows.map(row => sized(row.caption, row.kind, undefined, row.own) + row.indent * 10)))
  const fixed = columns.reduce((sum, { column }) => sum + column.width, 0) + natural.filter(Boolean).length * pad + pad
  const factor = Math.max(leastFactor, Math.min(1, (width - fixed) / (natural.reduce((sum, each) => sum + each, 0) + caption)))
  return {
    factor,
    definitions: [
      { id: 'caption', width: 0 },
      ...columns.map(({ id, column }, index): ColumnDefinition => ({
        id,
        width: column.width || Math.ceil(natural[index]! * factor + pad),
        style: styles[index]!,
      })),
    ],
  }
}

/** What helps a statement that is too wide for its page. */
export function wideRemedies(block: StatementBlock, page: { orientation: string; size: string }): Remedy[] {
  return [
    ...(page.orientation === 'portrait'
      ? [{ label: 'Turn the page', edit: 'setPageOf' as const, args: [block.id, { orientation: 'landscape' }] }]
      : page.size === 'A4'
        ? [{ label: 'A3 page', edit: 'setPageOf' as const, args: [block.id, { size: 'A3' }] }]
        : []),
    ...(block.scale === 'units'
      ? [{ label: 'In thousands', edit: 'setStatement' as const, args: [block.id, { scale: 'thousands', decimals: 0 }] }]
      : block.decimals
        ? [{ label: 'Without decimals', edit: 'setStatement' as const, args: [block.id, { decimals: 0 }] }]
        : []),
  ]
}
