import type { Standing } from '../formula/evaluate'
import { type Composer, lineHeight } from './compose'
import type { PreparedItem, PreparedPanel } from './prepare'
import type { ResolvedStyle } from './style'
import type { Shape } from './svgShapes'
import type { PrintText } from './text'
import { wrapText } from './wrap'

/** One line of text, rule or picture of a panel; `y` is its upper edge from the panel's top, in points. Pieces of one item stand together. */
export type PanelPiece = { id: string, x: number, y: number, width: number, height: number } & (
  | { kind: 'line', text: string, style: ResolvedStyle }
  | { kind: 'late', print: PrintText, style: ResolvedStyle }
  | { kind: 'rule', colour: string }
  | { kind: 'image', scale: number, shapes: readonly Shape[] }
)

interface Placed { item: PreparedItem, bottom: number, grown: number }

/** Places the items of a panel for a record; items below one that grows with its text, and beside it by no more than its width, are pushed down. */
export function measurePanel(composer: Composer, panel: PreparedPanel, at: Standing): { pieces: PanelPiece[], height: number } {
  const pieces: PanelPiece[] = []
  // only items that have grown can push others
  const grown: Placed[] = []
  let height = panel.block.height
  for (const item of panel.items) {
    let push = 0
    for (const other of grown) {
      const beside = other.item.x < item.x + item.width && item.x < other.item.x + other.item.width
      if (beside && other.bottom <= item.y + 0.5 && other.grown > push) push = other.grown
    }
    const y = item.y + push
    const plain = plainHeight(item)
    const own = place(composer, item, y, at, pieces)
    if (push + own - plain !== 0) grown.push({ item, bottom: item.y + plain, grown: push + own - plain })
    if (y + own > height) height = y + own
  }
  return { pieces, height }
}

/** The height that an item has with one line of text. */
function plainHeight(item: PreparedItem): number {
  return item.kind === 'text' ? lineHeight(item.style) : item.kind === 'image' ? item.height : item.thickness
}

/** Adds the pieces of an item and gives its height. */
function place(composer: Composer, item: PreparedItem, y: number, at: Standing, pieces: PanelPiece[]): number {
  const { id, x, width } = item
  if (item.kind === 'rule') {
    pieces.push({ id, x, y, width, height: item.thickness, kind: 'rule', colour: item.colour })
    return item.thickness
  }
  if (item.kind === 'image') {
    const scale = Math.min(width / item.picture.width, item.height / item.picture.height)
    pieces.push({ id, x, y, width, height: item.height, kind: 'image', scale, shapes: item.picture.shapes })
    return item.height
  }
  const { style } = item
  const step = lineHeight(style)
  const print = composer.print(item.text)
  if (item.text.late) {
    pieces.push({ id, x, y, width, height: step, kind: 'late', print, style })
    return step
  }
  const lines = wrapText(print(at), style.font, style.size, width)
  for (let index = 0; index < lines.length; index++) pieces.push({ id, x, y: y + index * step, width, height: step, kind: 'line', text: lines[index]!, style })
  return lines.length * step
}
