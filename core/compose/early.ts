import { isTable } from '../definition/blocks/table'
import { somePart } from '../formula/parts'
import type { Typed } from '../formula/typed'
import { preparedInside } from './layoutWalk'
import type { PreparedGroup, PreparedLayout, PreparedPanel, PreparedTable } from './prepared'

/** Records that a first page needs at most: it holds fewer lines, and what is shown of its groups lies within them. */
export const earlyRecords = 400

/** An order of root records: fields of theirs, outermost first. */
export type EarlyOrder = readonly { path: string; descending: boolean }[]

/**
 * The order in which the records of a layout's first page come first, where that page stands on them alone: a list of lines in groups that
 * follow a name or a value, with totals at the ends of groups only. Nothing for any other layout: there the first page may need all
 * records. How many pages there are is not known yet: where that is printed, its place stays empty.
 */
export function earlyOrder(layout: PreparedLayout): EarlyOrder | undefined {
  const { blocks, documentName } = layout
  const table = blocks.find(({ kind }) => isTable({ kind })) as PreparedTable | undefined
  if (!table || documentName || preparedInside(blocks).some(block => block.inner || block.printsTies)) return undefined
  // what stands before and beside the list must not add anything up
  const panels = [layout.top, layout.foot, layout.firstTop, layout.firstFoot, ...blocks.slice(0, blocks.indexOf(table))]
  const plainPanel = (panel: unknown) =>
    (panel as PreparedPanel).items?.every(item => !('text' in item) || item.text.formulas.every(alone)) ?? false
  if (panels.some(panel => panel && !plainPanel(panel))) return undefined
  if (table.level !== 0 || table.showWhen || table.sort.length || table.block.atBottom || table.looks.length) return undefined
  if (table.columns.some(({ column }) => column.fit)) return undefined
  const lines = table.rows.filter(row => row.row.kind === 'line')
  if (lines.length !== 1 || lines[0]!.when) return undefined
  for (const { row, cells, when, nested, report } of table.rows) {
    if (nested || report || (when && !alone(when))) return undefined
    const ends = row.kind === 'groupEnd' || row.kind === 'end'
    if (!ends && !cells.every(cell => cell.text.formulas.every(alone) && (!cell.when || alone(cell.when)))) return undefined
    const wide = (typed: Typed) => somePart(typed, part => part.is === 'total' && part.over !== undefined)
    if (ends && cells.some(cell => cell.text.formulas.some(wide))) return undefined
  }
  const orders = table.groups.map(orderOf)
  return orders.every(each => each !== undefined) && orders.length ? orders.flat() : undefined
}

/** The fields by which groups follow one another: what is shown, then what tells two of a name apart. */
function orderOf({ group, by, key }: PreparedGroup): EarlyOrder | undefined {
  if (by.is !== 'field' || by.level !== 0 || group.step || group.edges || group.top || group.having || group.keepTogether) return undefined
  if (group.order.by !== 'value' && !(group.order.by === 'name' && by.type === 'text')) return undefined
  if (key === 'ancestor') return undefined
  return [{ path: by.path, descending: group.order.descending }, ...(key ?? []).map(path => ({ path, descending: false }))]
}

/** Does a formula stand on the record by itself? */
const alone = (typed: Typed): boolean => !somePart(typed, part => ['total', 'running', 'rank', 'share'].includes(part.is))
