import type { TieOutResult } from '../definition/tieOuts'
import type { TiesBlock } from '../definition/blocks/ties'
import type { ColumnDefinition, RowDefinition } from '../definition/blocks/table'
import type { TextStyle, ThemeDefinition } from '../definition/style'
import { parseDecimal } from '../value/decimal'
import { numberFormat } from '../value/numberFormat'
import { literal, literalCell, literalRow, type LiteralTable, placeColumns } from './table/literal'
import type { PreparedBlock, PreparedCell, PreparedRow } from './prepared'
import { pageWordsOf } from './words'

/** The tie-outs of a report where they are printed. */
export interface PreparedTies extends PreparedBlock {
  kind: 'ties'
  block: TiesBlock
  x: number
  width: number
  theme: ThemeDefinition
  names: readonly { id: string; name: string }[]
}

/**
 * The results as rows: name, both figures, their difference, and whether they agree. While nothing is known of them, their names stand
 * alone.
 */
export function layTies(ties: PreparedTies, results: readonly TieOutResult[] | undefined, language: string): LiteralTable {
  const { block, theme } = ties
  const words = pageWordsOf(language)
  const right: TextStyle = { align: 'right' }
  const columns: ColumnDefinition[] = [
    { id: 'name', width: 0 },
    { id: 'left', width: 82, style: right },
    { id: 'right', width: 82, style: right },
    { id: 'difference', width: 72, style: right },
    { id: 'outcome', width: 84, style: right },
  ]
  const print = numberFormat('#,##0.00##;−#,##0.00##;–', language)
  const figure = (text: string | undefined) => (text === undefined ? '' : print(parseDecimal(text)!))
  const row = (definition: RowDefinition, texts: readonly string[], own?: TextStyle): PreparedRow =>
    literalRow(
      definition,
      theme,
      own,
      texts.flatMap((text, column): PreparedCell[] =>
        text ? [literalCell({ column, id: columns[column]!.id, definition, theme }, literal(text), columns[column]!.style, own)] : [],
      ),
    )
  const titles = row({ id: 'titles', kind: 'titles', cells: {} }, [words.checked, '', '', words.difference, ''])
  const known = ties.names.map(({ id, name }): { result: TieOutResult; unknown?: true } => {
    const result = results?.find(each => each.id === id)
    return result ? { result } : { result: { id, name, holds: true }, unknown: true }
  })
  const rows = known
    .filter(each => !block.failedOnly || !each.result.holds)
    .map(({ result: each, unknown }) => {
      const definition: RowDefinition = { id: each.id, kind: 'line', cells: {} }
      const failed: TextStyle | undefined = each.holds ? undefined : { bold: true, colour: '#a13c31' }
      const name = each.sentence ? `${each.name}: ${each.sentence}` : each.name
      return row(
        definition,
        unknown
          ? [name, '', '', '', words.unchecked]
          : [name, figure(each.left), figure(each.right), figure(each.difference), each.holds ? words.agrees : words.differs],
        failed,
      )
    })
  return {
    table: {
      kind: 'table',
      level: ties.level,
      x: ties.x,
      width: ties.width,
      columns: placeColumns(columns, ties.x, ties.width),
      groups: [],
      sort: [],
      looks: [],
      theme,
      rows: [titles, ...rows],
      block: {
        id: block.id,
        kind: 'table',
        level: '',
        left: block.left,
        width: block.width,
        columns,
        groups: [],
        rows: [],
        repeatTitles: true,
        after: block.after,
      },
    },
    rows: rows.map(each => ({ row: each, newPage: false })),
  }
}
