import type { Catalog } from '../books/catalog'
import { type Block, isRepeat } from '../definition/blocks/block'
import { isPanel, type PanelBlock } from '../definition/blocks/panel'
import { isTable, type TableBlock } from '../definition/blocks/table'
import { addItem } from '../definition/edits/items'
import { changeBlock, insertBlock } from '../definition/edits/layout'
import { nestTable } from '../definition/edits/table'
import { insertColumn } from '../definition/edits/tableColumns'
import type { ReportDefinition } from '../definition/report'
import { blocksInside, layoutNamed } from '../definition/walk'
import type { LevelInfo } from '../formula/typed'
import { newTable } from './blocks'
import { draftColumns, draftFields } from './drafts/fields'
import { Tables } from './drafts/tables'

/** What was joined: a related record by its path from a level, or a detail level by its name. */
export type Joined = { level: string; record: string } | { level: string; detail: string }

const lineHeight = 14

/**
 * Puts what was joined onto the default layout, where a draft would have it: the ticked fields of a related record as columns of the
 * table of its level, before its figures, or as lines of a panel; a detail level as a table under each of its records. `levels` are those
 * of the report with what was joined. Nothing where the layout has no place for it.
 */
export function putJoined(
  report: ReportDefinition,
  catalog: Catalog,
  levels: readonly LevelInfo[],
  joined: Joined,
): ReportDefinition | undefined {
  // page tops and feet say nothing of a record
  const whole = (block: Block): Block[] => [block, ...blocksInside(block).flatMap(whole)]
  const blocks = layoutNamed(report).blocks.flatMap(whole)
  return 'detail' in joined
    ? putDetail(report, catalog, levels, blocks, joined.level, joined.detail)
    : putRecord(report, catalog, levels, blocks, joined.level, joined.record)
}

const figures = (table: TableBlock) =>
  table.columns.findIndex(column => column.style?.align === 'right' && column.id !== table.columns[0]!.id)

function putRecord(
  report: ReportDefinition,
  catalog: Catalog,
  levels: readonly LevelInfo[],
  blocks: readonly Block[],
  level: string,
  record: string,
): ReportDefinition | undefined {
  const info = levels.find(each => each.name === level)
  if (!info) return undefined
  const tables = new Tables(catalog)
  // a picture is no text
  const own = draftFields(tables, info).filter(
    ({ field, role }) => role !== 'picture' && (field.record === record || field.record?.startsWith(`${record}.`)),
  )
  const columns = draftColumns(tables, own, () => false)
  if (!columns.length) return undefined
  const table = blocks.find((block): block is TableBlock => isTable(block) && block.level === level)
  if (table) {
    const before = figures(table)
    const at = before < 0 ? table.columns.length : before
    return columns.reduce((now, { title, text, width, style }, index) => {
      const column = { title, text, width, ...(style ? { style } : {}) }
      return insertColumn(now, table.id, at + index, column)
    }, report)
  }
  const panel = panelOf(levels, blocks, level)
  if (!panel) return undefined
  const lowest = Math.max(0, ...panel.items.map(item => item.y + lineHeight))
  const left = Math.min(...panel.items.map(item => item.x), panel.items.length ? Infinity : 0)
  const made = columns.reduce(
    (now, { title, text }, index) =>
      addItem(now, panel.id, { kind: 'text', x: left, y: lowest + index * lineHeight, width: 240, text: `${title}: ${text}` }),
    report,
  )
  const height = lowest + columns.length * lineHeight
  return changeBlock(made, panel.id, block => (isPanel(block) ? { ...block, height: Math.max(block.height, height) } : block))
}

/** The panel that says most of a record: in a repeat of its level, or, of the root, the first in the flow. */
function panelOf(levels: readonly LevelInfo[], blocks: readonly Block[], level: string): PanelBlock | undefined {
  const inside = blocks.flatMap(block => (isRepeat(block) && block.level === level ? block.blocks : []))
  const among = inside.length || levels[0]?.name !== level ? inside : blocks
  return among.filter(isPanel).reduce<PanelBlock | undefined>((best, each) => {
    const said = (panel: PanelBlock) => panel.items.filter(item => item.kind === 'text' && item.text.includes('{{')).length
    return !best || said(each) > said(best) ? each : best
  }, undefined)
}

function putDetail(
  report: ReportDefinition,
  catalog: Catalog,
  levels: readonly LevelInfo[],
  blocks: readonly Block[],
  level: string,
  detail: string,
): ReportDefinition | undefined {
  const info = levels.find(each => each.name === detail && levels[each.parent]?.name === level)
  if (!info) return undefined
  const fresh = newTable(
    catalog,
    info,
    blocks.map(block => block.id),
  )
  const repeat = blocks.find(block => isRepeat(block) && block.level === level)
  if (repeat && isRepeat(repeat)) {
    const last = repeat.blocks.findLast(isTable)
    return insertBlock(report, fresh, last ? { beside: last.id, side: 'after' } : { within: repeat.id })
  }
  const table = blocks.find(block => isTable(block) && block.level === level)
  return table && nestTable(report, table.id, { ...fresh, left: 18 })
}
