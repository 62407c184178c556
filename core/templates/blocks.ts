import type { Block } from '../definition/blocks/block'
import type { PanelBlock } from '../definition/blocks/panel'
import type { StatementBlock, StatementColumn, StatementLine, StatementLineKind } from '../definition/blocks/statement'
import type { TableBlock } from '../definition/blocks/table'
import type { NewItem } from '../definition/edits/edits'
import { freeId } from '../definition/names'
import { plainTable } from '../definition/upgrade'
import type { LevelInfo } from '../formula/typed'
import { holdsFigures } from '../statement/columns'
import type { Catalog } from '../books/catalog'
import { tableColumns } from './tables'

/** Columns that a new table has, at most. */
const mostColumns = 6

/** A table of a level: its ticked fields, or its first ones. `taken` are ids of the report. */
export const newTable = (catalog: Catalog, level: LevelInfo, taken: string[]): TableBlock =>
  plainTable(freeId(level.name, taken, true), level.name, tableColumns(catalog, level, mostColumns), { after: 10 })

/** A panel with a text in it. */
export const newPanel = (taken: string[]): PanelBlock => ({
  kind: 'panel',
  id: freeId('panel', taken, true),
  height: 24,
  after: 10,
  items: [{ kind: 'text', id: 'text1', x: 0, y: 0, width: 240, text: 'Text' }],
})

/** A repeat for each record of a level, with a panel in it. */
export const newRepeat = (level: LevelInfo, taken: string[]): Block => ({
  kind: 'repeat',
  id: freeId(`each_${level.name}`, taken, true),
  level: level.name,
  newPage: false,
  restartNumbers: false,
  after: 0,
  blocks: [newPanel(taken)],
})

/** The tie-outs of the run, printed where they stand. */
export const newTies = (taken: string[]): Block => ({
  kind: 'ties',
  id: freeId('tieOuts', taken, true),
  left: 0,
  width: 0,
  failedOnly: false,
  after: 8,
})

export const newBreak = (taken: string[]): Block => ({ kind: 'break', id: freeId('break', taken, true), after: 0 })

const ink = '#26221d'
/** A hill under a sky, until somebody chooses a picture. */
const placeholder =
  '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 60 60"><rect width="60" height="60" fill="#e5ded3"/>' +
  '<path d="M8 48L24 26L34 38L42 30L54 48Z" fill="#b7a68d"/></svg>'

/** What can be put into a panel, as it begins; places and sizes in points. */
export const newItems = {
  text: { kind: 'text', x: 0, y: 0, width: 160, text: 'Text' },
  picture: { kind: 'image', x: 0, y: 0, width: 60, height: 60, svg: placeholder },
  line: { kind: 'rule', x: 0, y: 0, width: 200, thickness: 0.75, colour: ink },
  box: { kind: 'box', x: 0, y: 0, width: 160, height: 40, border: ink, thickness: 0.75 },
  qr: { kind: 'code', x: 0, y: 0, width: 56, height: 56, code: 'qrcode', text: 'Text' },
  payment: { kind: 'payment', x: 0, y: 0, width: 72, height: 72, terms: {} },
  bars: { kind: 'code', x: 0, y: 0, width: 140, height: 32, code: 'code128', text: '12345' },
} satisfies Record<string, NewItem>

/** Lines of a statement, as they begin. */
export const newLines: Record<StatementLineKind, Partial<StatementLine>> = {
  accounts: { caption: 'New line', accounts: 'type expense', indent: 1 },
  formula: { caption: 'New formula', formula: '0', style: { bold: true } },
  sum: { caption: 'Total', style: { bold: true, above: 'thin' } },
  heading: { caption: 'Heading' },
  blank: {},
  rule: {},
  break: {},
}

/**
 * A column more for a statement. One of figures looks from where the others look; a difference, percentage or share is of the last ones,
 * a total of all. `period` is where it looks from if there is none yet.
 */
export function newColumn(block: StatementBlock, kind: StatementColumn['kind'], period: string): Omit<StatementColumn, 'id'> {
  const measured = block.columns.filter(each => each.span)
  if (holdsFigures({ id: '', kind, width: 0 }))
    return { kind, width: 0, span: { unit: 'period', anchor: measured[0]?.span?.anchor ?? period } }
  const ids = measured.map(each => each.id)
  if (kind === 'share') {
    const line = block.lines.find(each => each.kind === 'sum' || each.kind === 'accounts')?.id ?? ''
    return { kind, width: 0, of: ids.slice(-1), line }
  }
  return { kind, width: 0, of: kind === 'total' ? ids : ids.slice(-2) }
}
