import { singleValue } from '../../value/textParts'
import { type CellDefinition, type RowDefinition, type RowKind, type TableBlock, isTable } from '../blocks/table'
import { freeId } from '../names'
import type { ReportDefinition } from '../report'
import { changeBlock } from './layout'

/** What all edits of tables share. */

/** A table changed by the change; blocks of another kind stay. */
export function changeTable(report: ReportDefinition, id: string, change: (table: TableBlock) => TableBlock): ReportDefinition {
  return changeBlock(report, id, block => (isTable(block) ? change(block) : block))
}

/** The row at a place: that of the id, or the first of the kind. */
export function rowAt(table: TableBlock, place: { part: string; row?: string | undefined }): RowDefinition | undefined {
  return table.rows.find(row => (place.row ? row.id === place.row : row.kind === place.part))
}

export function changeRows(
  report: ReportDefinition,
  block: string,
  row: string,
  change: (row: RowDefinition) => RowDefinition,
): ReportDefinition {
  return changeTable(report, block, table => {
    const rows = table.rows.map(each => (each.id === row ? change(each) : each))
    return rows.every((each, index) => each === table.rows[index]) ? table : { ...table, rows }
  })
}

/** The formula of a cell that holds one value and nothing else. */
export const formulaIn = (text: string | undefined): string | undefined => singleValue(text ?? '')?.formula

/** Which rows a total stands in: a group's end, or the table's. */
export interface TotalPlace {
  kind: 'groupEnd' | 'end'
  group?: string
}

export const placed = (row: RowDefinition, place: TotalPlace) => row.kind === place.kind && row.group === place.group

/** Puts totals (text by column) at a group's or the table's end and writes a label before them where there is room. */
export function withTotals(table: TableBlock, place: TotalPlace, totals: Readonly<Record<string, string>>): TableBlock {
  const made = table.rows.some(row => placed(row, place)) ? table : inGroupOrder(withRow(table, { ...place, cells: {} }))
  const index = made.rows.findIndex(row => placed(row, place))
  const row = made.rows[index]!
  const cells: Record<string, CellDefinition> = {
    ...row.cells,
    ...Object.fromEntries(Object.entries(totals).map(([column, text]) => [column, { ...row.cells[column], text }])),
  }
  for (const [column, text] of Object.entries(totals)) if (!text) Reflect.deleteProperty(cells, column)
  const depth = made.groups.findIndex(group => group.id === place.group)
  const filled = Object.values(cells).some(cell => cell.text.includes('{{') && !cell.text.includes('group.name'))
  const label = made.columns.find(column => !column.hidden)
  if (filled && label && !cells[label.id] && !(label.id in totals))
    cells[label.id] = {
      text: place.kind === 'end' ? 'Total' : 'Total {{ group.name }}',
      style: { align: 'left', ...(depth > 0 ? { indent: depth * 8 } : {}) },
    }
  // a row that held nothing but its totals goes with the last of them
  if (!filled && !Object.values(cells).some(cell => cell.text && !/^Total/.test(cell.text)))
    return { ...made, rows: made.rows.filter((_, at) => at !== index) }
  return { ...made, rows: made.rows.map((each, at) => (at === index ? { ...each, cells } : each)) }
}

export function withRow(table: TableBlock, row: Omit<RowDefinition, 'id'>): TableBlock {
  const id = freeId(
    row.group ? `${row.kind}_${row.group}` : row.kind,
    table.rows.map(each => each.id),
    true,
  )
  let index = table.rows.length
  while (index > 0 && order.indexOf(table.rows[index - 1]!.kind) > order.indexOf(row.kind)) index--
  const rows = [...table.rows]
  rows.splice(index, 0, { ...row, id })
  return { ...table, rows }
}

export const order: RowKind[] = ['titles', 'groupStart', 'line', 'extra', 'groupEnd', 'end', 'forward', 'brought']
/** Rows of groups in the order of their groups: starts from the outermost, ends from the innermost. */
export function inGroupOrder(table: TableBlock): TableBlock {
  const place = (row: RowDefinition) => table.groups.findIndex(group => group.id === row.group)
  const sorted = (kind: 'groupStart' | 'groupEnd', direction: 1 | -1) =>
    table.rows
      .filter(row => row.kind === kind)
      .map((row, index) => ({ row, index }))
      .sort((a, b) => (place(a.row) - place(b.row)) * direction || a.index - b.index)
      .map(each => each.row)
  const rows = order.flatMap(kind =>
    kind === 'groupStart' ? sorted(kind, 1) : kind === 'groupEnd' ? sorted(kind, -1) : table.rows.filter(row => row.kind === kind),
  )
  return { ...table, rows }
}
