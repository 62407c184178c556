import type { RowDefinition, RowKind } from '../blocks/table'
import { freeId } from '../names'
import type { ReportDefinition } from '../report'
import { changeTable, withRow } from './tableParts'

/** Puts a row in after the last one of its kind, with a name of its own. A group's start or end stands in the order of the groups. */
export function addRow(report: ReportDefinition, block: string, row: Omit<RowDefinition, 'id'>): ReportDefinition {
  return changeTable(report, block, table => withRow(table, row))
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
    if (!found || found.nested || found.report) return table
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
