import { isPanel } from '../blocks/panel'
import { isStatementBlock } from '../blocks/statement'
import { merged, type TextPlace } from './layout'
import { changeItem } from './items'
import { findBlock } from '../walk'
import { freeId } from '../names'
import { setStatementText, statementText } from './statement'
import { isTable, type CellDefinition, type LookRule, type TableBlock } from '../blocks/table'
import type { NestedBlock } from '../blocks/nested'
import type { ReportDefinition } from '../report'
import type { SortDefinition } from '../levels'
import type { RowStyle, TextStyle } from '../style'
import { changeRows, changeTable, placed, rowAt, withRow, withTotals, type TotalPlace } from './tableParts'
import { changeColumn } from './tableColumns'

/** The text at a place, as its author wrote it; "" for an empty cell of a row. */
export function textAt(report: ReportDefinition, place: TextPlace): string | undefined {
  const block = findBlock(report, place.block)
  if (isPanel(block)) {
    const item = block.items.find(each => each.id === place.cell)
    return item?.kind === 'text' || item?.kind === 'code' ? item.text : undefined
  }
  if (isStatementBlock(block)) return statementText(block, place)
  if (!isTable(block) || !block.columns.some(each => each.id === place.cell)) return undefined
  const row = rowAt(block, place)
  return row && (row.cells[place.cell]?.text ?? '')
}

export function setText(report: ReportDefinition, place: TextPlace, text: string): ReportDefinition {
  const current = textAt(report, place)
  if (current === text || current === undefined) return report
  if (place.part === 'item')
    return changeItem(report, place.block, place.cell, item => (item.kind === 'text' || item.kind === 'code' ? { ...item, text } : item))
  const found = findBlock(report, place.block)
  if (isStatementBlock(found)) return setStatementText(report, found, place, text)
  const table = found as TableBlock
  return setCell(report, place.block, rowAt(table, place)!.id, place.cell, { text })
}

/** Text, span, style or rule of a cell; an empty text without anything else takes the cell out. */
export function setCell(
  report: ReportDefinition,
  block: string,
  row: string,
  column: string,
  change: Partial<CellDefinition>,
): ReportDefinition {
  return changeRows(report, block, row, found => {
    const next = Object.fromEntries(
      Object.entries({ text: '', ...found.cells[column], ...change }).filter(
        ([key, value]) => key === 'text' || (value !== undefined && value !== '' && !(key === 'span' && value === 1)),
      ),
    ) as unknown as CellDefinition
    const cells = { ...found.cells, [column]: next }
    if (next.text === '' && Object.keys(next).length === 1) Reflect.deleteProperty(cells, column)
    return { ...found, cells }
  })
}

/** Style of one cell of a row, of a panel's text, or (without a row) of a whole column. */
export function setStyle(report: ReportDefinition, block: string, cell: string, style: Partial<TextStyle>, row?: string): ReportDefinition {
  const found = findBlock(report, block)
  if (isTable(found)) {
    const column = found.columns.find(each => each.id === cell)
    if (!column) return report
    if (!row) return changeColumn(report, block, cell, { style: merged(column.style, style) })
    const own = found.rows.find(each => each.id === row)?.cells[cell]
    return setCell(report, block, row, cell, { style: emptyAway(merged(own?.style, style)) })
  }
  return changeItem(report, block, cell, item => (item.kind === 'text' ? { ...item, style: merged(item.style, style) } : item))
}

const emptyAway = (style: TextStyle) => (Object.keys(style).length ? style : undefined)

/** Look of a row, its borders too. */
export function setRowStyle(report: ReportDefinition, block: string, row: string, style: Partial<RowStyle>): ReportDefinition {
  return changeRows(report, block, row, found => {
    const { style: before, ...rest } = found
    const next = merged(before, style)
    return Object.keys(next).length ? { ...rest, style: next } : rest
  })
}

export function setRowWhen(report: ReportDefinition, block: string, row: string, when: string): ReportDefinition {
  return changeRows(report, block, row, found => {
    const { when: _, ...rest } = found
    return when.trim() ? { ...rest, when } : rest
  })
}

/** Settings of a table as a whole. */
export function setTable(
  report: ReportDefinition,
  block: string,
  change: Partial<Pick<TableBlock, 'repeatTitles' | 'legend' | 'left' | 'width' | 'level'>> & { sort?: SortDefinition[] },
): ReportDefinition {
  return changeTable(report, block, table => {
    const next = { ...table, ...change }
    if (!next.sort?.length) delete next.sort
    if (!next.legend) delete next.legend
    return next
  })
}

/** Puts a total of a column at a group's or the table's end; an empty text takes it out. */
export function setTotal(report: ReportDefinition, block: string, column: string, place: TotalPlace, text: string): ReportDefinition {
  return changeTable(report, block, table =>
    table.columns.some(each => each.id === column) ? withTotals(table, place, { [column]: text }) : table,
  )
}

/** The total of a column at a place, as it is written. */
export function totalAt(table: TableBlock, column: string, place: TotalPlace): string {
  return table.rows.find(row => placed(row, place))?.cells[column]?.text ?? ''
}

// looks

/** Puts a look in, or in the place of the one of its id. */
export function putLook(report: ReportDefinition, block: string, look: Omit<LookRule, 'id'> & { id?: string }): ReportDefinition {
  return changeTable(report, block, table => {
    const looks = table.looks ?? []
    const id =
      look.id ??
      freeId(
        'look',
        looks.map(each => each.id),
      )
    const next = { ...look, id }
    return { ...table, looks: looks.some(each => each.id === id) ? looks.map(each => (each.id === id ? next : each)) : [...looks, next] }
  })
}

export function removeLook(report: ReportDefinition, block: string, look: string): ReportDefinition {
  return changeTable(report, block, table => {
    const looks = (table.looks ?? []).filter(each => each.id !== look)
    const { looks: _, ...rest } = table
    return looks.length ? { ...rest, looks } : rest
  })
}

/** A table of a detail level under each line, which may itself be styled and totalled. */
export function nestTable(report: ReportDefinition, block: string, nested: TableBlock): ReportDefinition {
  return changeTable(report, block, table => withRow(table, { kind: 'extra', cells: {}, nested }))
}

/** A report of the library under each line. */
export function nestReport(report: ReportDefinition, block: string, nested: NestedBlock): ReportDefinition {
  return changeTable(report, block, table => withRow(table, { kind: 'extra', cells: {}, report: nested }))
}
