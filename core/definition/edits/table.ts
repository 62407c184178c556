import { singleValue } from '../../value/textParts'
import { isPanel } from '../blocks/panel'
import { isStatementBlock } from '../blocks/statement'
import { changeBlock, changeItem, merged, type TextPlace } from './layout'
import { findBlock } from '../walk'
import { freeId } from '../names'
import { setStatementText, statementText } from './statement'
import {
  isTable,
  type CellDefinition,
  type ColumnDefinition,
  type GroupDefinition,
  type LookRule,
  type RowDefinition,
  type RowKind,
  type TableBlock,
} from '../blocks/table'
import type { ReportDefinition } from '../report'
import type { SortDefinition } from '../levels'
import type { RowStyle, TextStyle } from '../style'
import { carriedText } from '../upgrade'

/** Edits of tables: their columns, rows, groups, totals and looks. */

function changeTable(report: ReportDefinition, id: string, change: (table: TableBlock) => TableBlock): ReportDefinition {
  return changeBlock(report, id, block => (isTable(block) ? change(block) : block))
}

/** The row at a place: that of the id, or the first of the kind. */
export function rowAt(table: TableBlock, place: { part: string; row?: string | undefined }): RowDefinition | undefined {
  return table.rows.find(row => (place.row ? row.id === place.row : row.kind === place.part))
}

function changeRows(report: ReportDefinition, block: string, row: string, change: (row: RowDefinition) => RowDefinition): ReportDefinition {
  return changeTable(report, block, table => {
    const rows = table.rows.map(each => (each.id === row ? change(each) : each))
    return rows.every((each, index) => each === table.rows[index]) ? table : { ...table, rows }
  })
}

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

const order: RowKind[] = ['titles', 'groupStart', 'line', 'extra', 'groupEnd', 'end', 'forward', 'brought']

/** Puts a row in after the last one of its kind, with a name of its own. A group's start or end stands in the order of the groups. */
export function addRow(report: ReportDefinition, block: string, row: Omit<RowDefinition, 'id'>): ReportDefinition {
  return changeTable(report, block, table => withRow(table, row))
}

function withRow(table: TableBlock, row: Omit<RowDefinition, 'id'>): TableBlock {
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

/** Takes a row out; the last row of a table stays, since a table without rows prints nothing. */
export function removeRow(report: ReportDefinition, block: string, row: string): ReportDefinition {
  return changeTable(report, block, table =>
    table.rows.length > 1 && table.rows.some(each => each.id === row)
      ? { ...table, rows: table.rows.filter(each => each.id !== row) }
      : table,
  )
}

/** A second row like it, right after it. */
export function duplicateRow(report: ReportDefinition, block: string, row: string): ReportDefinition {
  return changeTable(report, block, table => {
    const index = table.rows.findIndex(each => each.id === row)
    const found = table.rows[index]
    if (!found || found.nested) return table
    const rows = [...table.rows]
    rows.splice(index + 1, 0, {
      ...found,
      id: freeId(
        found.id,
        rows.map(each => each.id),
      ),
    })
    return { ...table, rows }
  })
}

/** Moves a row among those of its kind. */
export function moveRow(report: ReportDefinition, block: string, row: string, by: -1 | 1): ReportDefinition {
  return changeTable(report, block, table => {
    const from = table.rows.findIndex(each => each.id === row)
    const other = table.rows[from + by]
    if (from < 0 || !other || other.kind !== table.rows[from]!.kind) return table
    const rows = [...table.rows]
    rows.splice(from + by, 0, ...rows.splice(from, 1))
    return { ...table, rows }
  })
}

/** Is the row at the table's end, or one of another kind, printed? Turning it on puts an empty one there. */
export function tickRow(report: ReportDefinition, block: string, kind: RowKind, on: boolean, group?: string): ReportDefinition {
  return changeTable(report, block, table => {
    const has = table.rows.some(each => each.kind === kind && each.group === group)
    if (on === has) return table
    return on
      ? withRow(table, { kind, cells: {}, ...(group ? { group } : {}) })
      : { ...table, rows: table.rows.filter(each => !(each.kind === kind && each.group === group)) }
  })
}

// columns

function changeColumn(report: ReportDefinition, block: string, column: string, change: Partial<ColumnDefinition>): ReportDefinition {
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

/** The formula of a cell that holds one value and nothing else. */
const formulaIn = (text: string | undefined): string | undefined => singleValue(text ?? '')?.formula

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

// groups

/** Adds a group inside those that are there, with a start that shows its name and the columns' totals at its end. */
export function addGroup(
  report: ReportDefinition,
  block: string,
  group: Omit<GroupDefinition, 'id'> & { id?: string },
  totals: Readonly<Record<string, string>> = {},
): ReportDefinition {
  return changeTable(report, block, table => {
    const id = freeId(group.id ?? wordOf(group.by), [...table.groups.map(each => each.id), table.level], true)
    const [first] = table.columns.filter(column => !column.hidden)
    const span = table.columns.length
    let next: TableBlock = { ...table, groups: [...table.groups, { ...group, id }] }
    next = withRow(next, {
      kind: 'groupStart',
      group: id,
      cells: first
        ? {
            [first.id]: {
              text: '{{ group.name }}',
              ...(span > 1 ? { span } : {}),
              ...(table.groups.length ? { style: { indent: table.groups.length * 8 } } : {}),
            },
          }
        : {},
    })
    if (Object.keys(totals).length) next = withTotals(next, { kind: 'groupEnd', group: id }, totals)
    return inGroupOrder(next)
  })
}

/** "customer.name" gives "customer", "invoice_date" gives "invoice_date". */
function wordOf(formula: string): string {
  const path = formula.replace(/`/g, '').split('.')
  const word = (path.length > 1 && /^(name|code|number|description)$/.test(path.at(-1)!) ? path.at(-2)! : path.at(-1)!)
    .replace(/[^\p{L}\p{N}_]+/gu, '_')
    .replace(/^[^\p{L}_]+|_+$/gu, '')
  return word || 'group'
}

/** Rows of groups in the order of their groups: starts from the outermost, ends from the innermost. */
function inGroupOrder(table: TableBlock): TableBlock {
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

export function setGroup(
  report: ReportDefinition,
  block: string,
  group: string,
  change: Partial<Omit<GroupDefinition, 'id'>>,
): ReportDefinition {
  return changeTable(report, block, table => ({
    ...table,
    groups: table.groups.map(each =>
      each.id === group
        ? (Object.fromEntries(
            Object.entries({ ...each, ...change }).filter(([, value]) => value !== undefined && value !== false && value !== ''),
          ) as unknown as GroupDefinition)
        : each,
    ),
  }))
}

/** Takes a group away with its rows. */
export function removeGroup(report: ReportDefinition, block: string, group: string): ReportDefinition {
  return changeTable(report, block, table => {
    if (!table.groups.some(each => each.id === group)) return table
    const rows = table.rows.filter(row => row.group !== group)
    return { ...table, groups: table.groups.filter(each => each.id !== group), rows }
  })
}

/** Moves a group outwards or inwards, to a place among the groups. */
export function moveGroup(report: ReportDefinition, block: string, group: string, to: number): ReportDefinition {
  return changeTable(report, block, table => {
    const from = table.groups.findIndex(each => each.id === group)
    if (from < 0 || to < 0 || to >= table.groups.length || from === to) return table
    const groups = [...table.groups]
    groups.splice(to, 0, ...groups.splice(from, 1))
    return inGroupOrder({ ...table, groups })
  })
}

// totals

/** Which rows a total stands in: a group's end, or the table's. */
export interface TotalPlace {
  kind: 'groupEnd' | 'end'
  group?: string
}

const placed = (row: RowDefinition, place: TotalPlace) => row.kind === place.kind && row.group === place.group

/** Puts totals (text by column) at a group's or the table's end and writes a label before them where there is room. */
function withTotals(table: TableBlock, place: TotalPlace, totals: Readonly<Record<string, string>>): TableBlock {
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
