import type { GroupDefinition, TableBlock } from '../blocks/table'
import { freeId } from '../names'
import type { ReportDefinition } from '../report'
import { changeTable, inGroupOrder, withRow, withTotals } from './tableParts'

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
              // a name stands at the left, whatever its column holds in lines
              style: { align: 'left' as const, ...(table.groups.length ? { indent: table.groups.length * 8 } : {}) },
            },
          }
        : {},
    })
    if (Object.keys(totals).length) next = withTotals(next, { kind: 'groupEnd', group: id }, totals)
    return inGroupOrder(next)
  })
}

/** "customer.name" gives "customer", "invoice_date" gives "invoice_date". */
export function wordOf(formula: string): string {
  const path = formula.replace(/`/g, '').split('.')
  const word = (path.length > 1 && /^(name|code|number|description)$/.test(path.at(-1)!) ? path.at(-2)! : path.at(-1)!)
    .replace(/[^\p{L}\p{N}_]+/gu, '_')
    .replace(/^[^\p{L}_]+|_+$/gu, '')
  return word || 'group'
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
