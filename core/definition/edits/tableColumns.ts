import { isTable, type ColumnDefinition, type RowDefinition, type RowKind, type TableBlock } from '../blocks/table'
import { freeId } from '../names'
import type { ReportDefinition } from '../report'
import type { TextStyle } from '../style'
import { carriedText } from '../upgrade'
import { findBlock } from '../walk'
import { changeTable, formulaIn, withRow } from './tableParts'

// columns
export function changeColumn(report: ReportDefinition, block: string, column: string, change: Partial<ColumnDefinition>): ReportDefinition {
  return changeTable(report, block, table => ({
    ...table,
    columns: table.columns.map(each =>
      each.id === column
        ? (Object.fromEntries(
            Object.entries({ ...each, ...change }).filter(([, value]) => value !== undefined && value !== false),
          ) as unknown as ColumnDefinition)
        : each,
    ),
  }))
}

export function setColumn(
  report: ReportDefinition,
  block: string,
  column: string,
  change: Partial<Pick<ColumnDefinition, 'fit' | 'hidden' | 'once'>>,
): ReportDefinition {
  return changeColumn(report, block, column, change)
}

/** What a new column holds in each kind of row. */
export interface NewColumn {
  title: string
  text: string
  end?: string
  width: number
  style?: TextStyle
}

/** Puts a new column before the one at `index`; its text goes into the lines, its title and total into the first rows of their kind. */
export function insertColumn(report: ReportDefinition, block: string, index: number, column: NewColumn): ReportDefinition {
  return changeTable(report, block, table => {
    const id = freeId(
      'column',
      table.columns.map(each => each.id),
    )
    const columns = [...table.columns]
    columns.splice(index, 0, { id, width: column.width, ...(column.style ? { style: column.style } : {}) })
    const texts: Partial<Record<RowKind, string | undefined>> = { titles: column.title, line: column.text, end: column.end }
    const first = new Set<RowKind>()
    const rows = table.rows.map(row => {
      const text = texts[row.kind]
      if (!text || (row.kind !== 'line' && first.has(row.kind))) return row
      if (row.kind === 'line' && Object.values(row.cells).some(cell => (cell.span ?? 1) > 1)) return row
      first.add(row.kind)
      return { ...row, cells: { ...row.cells, [id]: { text } } }
    })
    return { ...table, columns, rows }
  })
}

/** A column that adds up other columns of each row. */
export function addTotalAcross(report: ReportDefinition, block: string, of: readonly string[], title: string): ReportDefinition {
  const table = findBlock(report, block)
  if (!isTable(table)) return report
  const sum = (row: RowDefinition): string | undefined => {
    const formulas = of.flatMap(column => formulaIn(row.cells[column]?.text) ?? [])
    return formulas.length ? `{{ ${formulas.map(each => `ifEmpty(${each}, 0)`).join(' + ')} }}` : undefined
  }
  const next = insertColumn(report, block, table.columns.length, { title, text: '', width: 70, style: { align: 'right' } })
  const id = (findBlock(next, block) as TableBlock).columns.at(-1)!.id
  return changeTable(next, block, found => ({
    ...found,
    rows: found.rows.map(row => {
      const text = row.kind === 'titles' ? undefined : sum(row)
      return text ? { ...row, cells: { ...row.cells, [id]: { text } } } : row
    }),
  }))
}

/** Takes a column out with its cells; the last one stays, since a table needs one. */
export function removeColumn(report: ReportDefinition, block: string, column: string): ReportDefinition {
  return changeTable(report, block, table => {
    if (table.columns.length < 2 || !table.columns.some(each => each.id === column)) return table
    return {
      ...table,
      columns: table.columns.filter(each => each.id !== column),
      rows: table.rows.map(row => {
        if (!row.cells[column]) return row
        const { [column]: _, ...cells } = row.cells
        return { ...row, cells }
      }),
      ...(table.looks
        ? {
            looks: table.looks.map(look =>
              look.columns.includes(column) ? { ...look, columns: look.columns.filter(each => each !== column) } : look,
            ),
          }
        : {}),
    }
  })
}

/** Moves a column by so many places. */
export function moveColumn(report: ReportDefinition, block: string, column: string, by: number): ReportDefinition {
  return changeTable(report, block, table => {
    const from = table.columns.findIndex(each => each.id === column)
    const to = from + by
    if (from < 0 || to < 0 || to >= table.columns.length || by === 0) return table
    const columns = [...table.columns]
    columns.splice(to, 0, ...columns.splice(from, 1))
    return { ...table, columns }
  })
}

/** Width in points; 0 lets the column share what is left. */
export function setColumnWidth(report: ReportDefinition, block: string, column: string, width: number): ReportDefinition {
  return changeColumn(report, block, column, { width: width === 0 ? 0 : Math.max(16, Math.round(width * 100) / 100), fit: undefined })
}

/** Does the carried row print what this column has added up? The rows that carry are put in where they are needed. */
export function setColumnCarry(report: ReportDefinition, block: string, column: string, carry: boolean): ReportDefinition {
  return changeTable(report, block, table => {
    const line = table.rows.find(row => row.kind === 'line')
    const text = carriedText(line?.cells[column]?.text ?? '')
    if (carry && !text) return table
    let next = table
    if (carry) {
      for (const [kind, caption] of [
        ['forward', 'Carried forward'],
        ['brought', 'Brought forward'],
      ] as const) {
        const place = table.columns.find(each => each.id !== column && !each.hidden)?.id
        if (!next.rows.some(row => row.kind === kind))
          next = withRow(next, { kind, cells: place ? { [place]: { text: caption, style: { align: 'left' } } } : {} })
      }
    }
    return {
      ...next,
      rows: next.rows.map(row => {
        if (row.kind !== 'forward' && row.kind !== 'brought') return row
        const { [column]: _, ...cells } = row.cells
        return { ...row, cells: carry ? { ...cells, [column]: { text } } : cells }
      }),
    }
  })
}
