import type { Standing } from '../formula/standing'
import { codePicture } from './codes'
import { readPicture } from './pictures'
import { bodyWidth } from './paperSize'
import type { Place } from './place'
import { PaymentCodeError, paymentCode } from '../payment/code'
import { toPayOf } from '../payment/transfer'
import { TermError } from '../einvoice/told'
import { decimalText } from '../value/decimal'
import { pageWordsOf } from './words'
import type { Alternative, PreparedItem, PreparedPanel } from './prepared'
import { lineHeight, type ResolvedStyle } from './style'
import { PictureError, type Shape } from './svgShapes'
import type { PrintText } from './text'
import { baseline, textWidth } from './fonts'
import { wrapRuns } from './rich'
import { cutText, shrunkSize, wrapText } from './wrap'

/**
 * One line of text, rule or picture of a panel; `y` is its upper edge from the panel's top, in points. Pieces of one item stand together.
 */
export type PanelPiece = { id: string; x: number; y: number; width: number; height: number } & (
  | { kind: 'line'; text: string; style: ResolvedStyle }
  | { kind: 'late'; print: PrintText; style: ResolvedStyle }
  | { kind: 'rule'; colour: string }
  | { kind: 'link'; href: string }
  | { kind: 'image'; scale: number; scaleY?: number; shapes: readonly Shape[]; alternative?: string }
  | { kind: 'bitmap'; data: string; alternative?: string }
)

interface Placed {
  item: PreparedItem
  bottom: number
  grown: number
}

/**
 * Places the items of a panel for a record; items below one that grows with its text, and beside it by no more than its width, are pushed
 * down.
 */
export function measurePanel(place: Place, panel: PreparedPanel, at: Standing): { pieces: PanelPiece[]; height: number } {
  const pieces: PanelPiece[] = []
  // only items that have grown can push others
  const grown: Placed[] = []
  let height = panel.block.height
  for (const item of panel.items) {
    if (item.showWhen && !place.values.holds(item.showWhen, at)) continue
    let push = 0
    for (const other of grown) {
      const beside = other.item.x < item.x + item.width && item.x < other.item.x + other.item.width
      if (beside && other.bottom <= item.y + 0.5 && other.grown > push) push = other.grown
    }
    const y = item.y + push
    const plain = plainHeight(item)
    const own = placeItem(place, panel.block.id, item, y, at, pieces)
    if (push + own - plain !== 0) grown.push({ item, bottom: item.y + plain, grown: push + own - plain })
    if (y + own > height) height = y + own
  }
  return { pieces, height }
}

/** The height that an item has with one line of text. */
function plainHeight(item: PreparedItem): number {
  return item.kind === 'text' ? lineHeight(item.style) : item.kind === 'rule' ? item.height || item.thickness : item.height
}

/** Adds the pieces of an item and gives its height. */
function placeItem(place: Place, block: string, item: PreparedItem, y: number, at: Standing, pieces: PanelPiece[]): number {
  const { id, x, width } = item
  const rule = (left: number, top: number, across: number, down: number, colour: string) =>
    pieces.push({ id, x: left, y: top, width: across, height: down, kind: 'rule', colour })
  const readAs = (otherwise?: string): { alternative?: string } => {
    const { alt } = item as { alt?: Alternative }
    const text = alt === 'decoration' ? undefined : alt === undefined ? otherwise : place.values.print(alt)(at)
    return text ? { alternative: text } : {}
  }
  const code = (kind: Parameters<typeof codePicture>[0], text: string, told: string): void => {
    const { height } = item as { height: number }
    const { width: across, height: down, shapes } = codePicture(kind, text)
    const square = kind === 'qrcode' || kind.includes('matrix')
    const scale = square ? Math.min(width / across, height / down) : width / across
    pieces.push({ id, x, y, width, height, kind: 'image', scale, scaleY: square ? scale : height / down, shapes, ...readAs(told) })
  }
  switch (item.kind) {
    case 'rule':
      if (item.height) rule(x, y, item.thickness, item.height, item.colour)
      else rule(x, y, width, item.thickness, item.colour)
      return item.height || item.thickness
    case 'box': {
      const { height, thickness } = item
      rule(x, y, width, height, item.fill ?? '')
      if (item.border) {
        for (const [left, top, across, down] of [
          [x, y, width, thickness],
          [x, y + height - thickness, width, thickness],
          [x, y, thickness, height],
          [x + width - thickness, y, thickness, height],
        ] as const)
          rule(left, top, across, down, item.border)
      }
      return height
    }
    case 'code': {
      const text = place.values.print(item.text)(at)
      if (text) picture(place, block, id, () => code(item.code, text, text))
      return item.height
    }
    case 'payment':
      picture(place, block, id, () => {
        const toPay = toPayOf(new Map([...item.terms].map(([term, typed]) => [term, place.values.evaluate(typed)(at)])))
        code(
          'qrcode',
          paymentCode(toPay),
          `${pageWordsOf(place.values.language).payment}: ${toPay.payee}, ${decimalText(toPay.amount)} ${toPay.currency}`,
        )
      })
      return item.height
    case 'image': {
      const source = item.from ? place.values.evaluate(item.from)(at) : undefined
      picture(place, block, id, () => {
        const found = item.from ? (typeof source === 'string' && source ? readPicture(source) : undefined) : item.picture
        if (!found) return
        const scale = Math.min(width / found.width, item.height / found.height)
        if ('data' in found)
          pieces.push({ id, x, y, width: found.width * scale, height: found.height * scale, kind: 'bitmap', data: found.data, ...readAs() })
        else pieces.push({ id, x, y, width, height: item.height, kind: 'image', scale, shapes: found.shapes, ...readAs() })
      })
      return item.height
    }
    case 'text':
      return placeText(place, item, y, at, pieces)
  }
}

/** A picture that cannot be drawn leaves its place empty and is remarked. */
function picture(place: Place, block: string, cell: string, draw: () => void): void {
  try {
    draw()
  } catch (error) {
    if (!(error instanceof PictureError || error instanceof PaymentCodeError || error instanceof TermError)) throw error
    place.remarks.picture(block, cell, error.message)
  }
}

function placeText(place: Place, item: PreparedItem & { kind: 'text' }, y: number, at: Standing, pieces: PanelPiece[]): number {
  const { id, x, width } = item
  let { style } = item
  const step = lineHeight(style)
  const print = place.values.print(item.text)
  const inner = Math.max(4, width - style.indent)
  const left = style.align === 'right' ? x : x + style.indent
  if (item.text.late) {
    pieces.push({ id, x: left, y, width: inner, height: step, kind: 'late', print, style })
    return step
  }
  if (style.marks) return placeRuns(place, item, left, y, inner, style, at, pieces)
  const text = print(at)
  if (style.rotated) {
    const lines = text.split('\n')
    const height = Math.max(...lines.map(line => textWidth(line, style.font, style.size)))
    lines.forEach((line, index) => pieces.push({ id, x: left + index * step, y, width: step, height, kind: 'line', text: line, style }))
    return height
  }
  if (style.overflow === 'shrink') style = { ...style, size: shrunkSize(text, style.font, style.size, inner) }
  const lines =
    style.overflow === 'wrap'
      ? wrapText(text, style.font, style.size, inner)
      : text.split('\n').map(line => (style.overflow === 'cut' ? cutText(line, style.font, style.size, inner) : line))
  if (style.fill) pieces.push({ id, x, y, width, height: lines.length * step, kind: 'rule', colour: style.fill })
  for (let index = 0; index < lines.length; index++)
    pieces.push({ id, x: left, y: y + index * step, width: inner, height: step, kind: 'line', text: lines[index]!, style })
  return lines.length * step
}

/** A text with marks: each line as high as its largest letters, all on one baseline. */
function placeRuns(
  place: Place,
  item: PreparedItem & { kind: 'text' },
  left: number,
  y: number,
  width: number,
  style: ResolvedStyle,
  at: Standing,
  pieces: PanelPiece[],
): number {
  const { id } = item
  let top = y
  for (const runs of place.values.runs(item.text, at)) {
    for (const line of wrapRuns(runs, style, width)) {
      const height = Math.max(lineHeight(style), ...line.map(each => lineHeight(each.style)))
      const base = Math.max(baseline(style.font, style.size), ...line.map(each => baseline(each.style.font, each.style.size)))
      const all = line.reduce((sum, each) => sum + each.width, 0)
      const start = style.align === 'right' ? left + width - all : style.align === 'centre' ? left + (width - all) / 2 : left
      for (const each of line) {
        const own = { id, x: start + each.x, width: each.width }
        pieces.push({
          ...own,
          y: top + base - baseline(each.style.font, each.style.size),
          height: lineHeight(each.style),
          kind: 'line',
          text: each.run.text,
          style: { ...each.style, align: 'left' },
        })
        if (each.run.marks.link) pieces.push({ ...own, y: top, height, kind: 'link', href: each.run.marks.link })
      }
      top += height
    }
  }
  return Math.max(top - y, lineHeight(style))
}

/** A text of a panel is a heading from this size on, by that of the theme's text. */
const headingSize = 1.2

/** Draws the pieces of a panel, from an upper edge on. */
export function drawPanel(
  place: Place,
  panel: PreparedPanel,
  pieces: readonly PanelPiece[],
  top: number,
  height: number,
  at: Standing,
  key?: string,
): void {
  // only counted: nothing is drawn
  if (place.paper.dry) return
  const { block } = panel
  place.paper.box(block.id, 'block', undefined, 0, top, bodyWidth(place.layout.page), height, at, undefined, key)
  if (place.paper.options.boxes) itemBoxes(place, block.id, pieces, top, at)
  let begun = { at: 0, large: false }
  const { tagger } = place.paper
  const heading = (place.layout.theme.body.size ?? 9) * headingSize
  for (const [index, piece] of pieces.entries()) {
    const y = top + piece.y
    // pieces of one item are one text
    if (tagger && pieces[index - 1]?.id !== piece.id) begun = { at: tagger.at, large: false }
    if ((piece.kind === 'line' || piece.kind === 'late') && piece.style.size >= heading) begun.large = true
    switch (piece.kind) {
      case 'line':
        if (piece.style.rotated) place.paper.writeUp(piece.text, piece.x, y + piece.height, piece.style)
        else place.paper.writeLine(piece.text, piece.x, piece.width, y, piece.style)
        break
      case 'late':
        place.paper.writeLate(piece.print, at, piece.x, piece.width, y, piece.style)
        break
      case 'rule':
        if (piece.colour) place.paper.fill(piece.x, y, piece.width, piece.height, piece.colour)
        break
      case 'image':
        figure(place, piece, y, 'figure')
        place.paper.page!.items.push({
          kind: 'shapes',
          x: place.paper.left + piece.x,
          y,
          scale: piece.scale,
          ...(piece.scaleY === undefined ? {} : { scaleY: piece.scaleY }),
          shapes: piece.shapes,
        })
        figure(place, piece, y, 'figureEnd')
        break
      case 'link':
        place.paper.page!.items.push({
          kind: 'link',
          x: place.paper.left + piece.x,
          y,
          width: piece.width,
          height: piece.height,
          href: piece.href,
        })
        break
      case 'bitmap':
        figure(place, piece, y, 'figure')
        place.paper.page!.items.push({
          kind: 'bitmap',
          x: place.paper.left + piece.x,
          y,
          width: piece.width,
          height: piece.height,
          data: piece.data,
        })
        figure(place, piece, y, 'figureEnd')
        break
    }
    if (tagger && (piece.kind === 'line' || piece.kind === 'late' || piece.kind === 'link') && pieces[index + 1]?.id !== piece.id)
      tagger.text(begun.at, begun.large)
  }
}

/** One box around the pieces of each item, which stand together. */
function itemBoxes(place: Place, block: string, pieces: readonly PanelPiece[], top: number, at: Standing): void {
  for (let index = 0; index < pieces.length;) {
    const { id, x, y, width } = pieces[index]!
    let bottom = y
    for (; index < pieces.length && pieces[index]!.id === id; index++) bottom = pieces[index]!.y + pieces[index]!.height
    place.paper.box(block, 'item', id, x, top + y, width, bottom - y, at)
  }
}

/** A picture with a text for those who do not see it begins or ends; what stands again on each page is not read again. */
function figure(place: Place, piece: PanelPiece & { alternative?: string }, y: number, kind: 'figure' | 'figureEnd'): void {
  const { alternative } = piece
  if (alternative === undefined || place.paper.tagger?.silent) return
  const box = { x: place.paper.left + piece.x, y, width: piece.width, height: piece.height }
  place.paper.page!.items.push(kind === 'figure' ? { kind, ...box, alternative } : { kind, ...box })
}
