import type { LevelInfo } from '../dataset/levels'
import type { Answer, DataRecords } from '../dataset/records'
import type { FiscalCalendar } from '../statement/calendar'
import type { Typed } from '../formula/check'
import { compileFormula, Lineage, type Standing } from '../formula/evaluate'
import type { Day } from '../value/date'
import { baseline, lineSpacing, textWidth } from './fonts'
import type { BoxPart, Page } from './page'
import type { PreparedBlock, PreparedLayout, PreparedPanel, PreparedRepeat } from './prepare'
import type { ResolvedStyle } from './style'
import { type CheckedText, compileText, type PrintText } from './text'
import { composeTable } from './table'
import { measurePanel, type PanelPiece } from './panel'

export interface ComposeOptions {
  levels: readonly LevelInfo[]
  parameters: Readonly<Record<string, Answer>>
  calendar?: FiscalCalendar
  today: Day
  /** make the boxes that the screen selects by */
  boxes?: boolean
  /** pages of the whole run, where an earlier pass has counted them */
  pageCount?: number
}

interface LateText { page: Page, item: number, print: PrintText, at: Standing, x: number, width: number, style: ResolvedStyle }

/**
 * Makes pages out of a layout and records, chunk after chunk of root records. Pages come out as soon as their document (the innermost
 * repeat that restarts numbers) is complete; without such a repeat, as soon as they are full.
 */
export class Composer {
  /** left edge of the text width, and the limits of the body on the current page */
  readonly left: number
  y = 0
  bodyTop = 0
  bodyBottom = 0
  private page: Page | undefined
  private ready: Page[] = []
  private held: Page[] = []
  private late: LateText[] = []
  private overall = 0
  private number = 0
  private restarts = 0
  private recordsBefore = 0
  private data!: DataRecords
  lineage!: Lineage
  private texts = new Map<CheckedText, PrintText>()
  private label: string | undefined
  private standing: Standing = { level: 0, from: 0, to: 0 }

  constructor(readonly layout: PreparedLayout, readonly options: ComposeOptions) {
    this.left = layout.page.margins.left
  }

  /** Pages completed by the next records, or by those of them whose root is `first` or comes after it. */
  * add(data: DataRecords, first = 0): Generator<Page> {
    this.data = data
    this.lineage = new Lineage(this.options.levels, data)
    this.texts = new Map()
    const all: Standing = { level: 0, from: first, to: data.levels[0]!.count }
    yield* this.blocks(this.layout.blocks, all)
    this.recordsBefore += all.to
  }

  /** The pages that are still held when all records have come. */
  * end(): Generator<Page> {
    this.closePage()
    this.settle()
    yield* this.drain()
  }

  private* drain(): Generator<Page> {
    while (this.ready.length) yield this.ready.shift()!
  }

  private* blocks(list: readonly PreparedBlock[], at: Standing): Generator<Page> {
    for (const block of list) {
      if (block.showWhen && !this.holds(block.showWhen, at)) continue
      switch (block.kind) {
        case 'repeat': yield* this.repeat(block, at); break
        case 'panel': yield* this.panel(block, at); break
        case 'table': yield* composeTable(this, block, at); break
        case 'break': if (this.page && this.y > this.bodyTop) yield* this.newPage(); break
      }
      if (block.kind !== 'break' && this.page && this.y > this.bodyTop) this.y += block.block.after
    }
  }

  private holds(rule: Typed, at: Standing): boolean {
    return compileFormula(rule, { ...this.options, data: this.data }, this.lineage)(at) === true
  }

  private* repeat(repeat: PreparedRepeat, at: Standing): Generator<Page> {
    const { block } = repeat
    for (const [from, to] of this.lineage.covered(at.from, at.to, at.level, repeat.level)) {
      for (let row = from; row < to; row++) {
        const own: Standing = { level: repeat.level, from: row, to: row + 1 }
        const outer = this.standing
        this.standing = own
        if (block.restartNumbers) {
          this.closePage()
          this.settle()
          this.restarts++
          this.number = 0
        } else if (block.newPage && this.page && this.y > this.bodyTop) this.closePage()
        if (repeat.outline) this.label = this.print(repeat.outline)(own)
        yield* this.blocks(repeat.inner, own)
        if (block.restartNumbers) {
          this.closePage()
          this.settle()
          this.restarts--
        }
        this.standing = outer
        yield* this.drain()
      }
    }
  }

  /** The text of a place, compiled once for the records at hand. */
  print(text: CheckedText): PrintText {
    let found = this.texts.get(text)
    if (!found) this.texts.set(text, found = compileText(text, typed => compileFormula(typed, { ...this.options, data: this.data }, this.lineage)))
    return found
  }

  /** Makes sure that there is a page to write on. */
  open(): void {
    if (this.page) return
    const { page, top, foot } = this.layout
    this.overall++
    this.number++
    const rootRow = this.standing.to > this.standing.from ? this.lineage.up(this.standing.from, this.standing.level, 0) + this.recordsBefore : -1
    this.page = { width: page.width, height: page.height, overall: this.overall, number: this.number, record: rootRow, items: [], boxes: [] }
    if (this.label !== undefined) this.page.label = this.label
    this.label = undefined
    this.held.push(this.page)
    this.bodyTop = page.margins.top
    this.bodyBottom = page.height - page.margins.bottom
    if (top && !(top.showWhen && !this.holds(top.showWhen, this.standing))) {
      const measured = measurePanel(this, top, this.standing)
      this.drawPanel(top, measured.pieces, this.bodyTop, measured.height, this.standing)
      this.bodyTop += measured.height + top.block.after
    }
    if (foot && !(foot.showWhen && !this.holds(foot.showWhen, this.standing))) {
      const measured = measurePanel(this, foot, this.standing)
      this.bodyBottom -= measured.height
      this.drawPanel(foot, measured.pieces, this.bodyBottom, measured.height, this.standing)
      this.bodyBottom -= foot.block.after
    }
    // a page top and foot that leave no room would never end; the body keeps a third of the page
    const least = page.height / 3
    if (this.bodyBottom - this.bodyTop < least) this.bodyBottom = this.bodyTop + least
    this.y = this.bodyTop
  }

  * newPage(): Generator<Page> {
    this.closePage()
    if (!this.restarts) {
      this.settle()
      yield* this.drain()
    }
    this.open()
  }

  private closePage(): void {
    this.page = undefined
  }

  /** Fills in the page words of the held pages and lets them go. */
  private settle(): void {
    for (const late of this.late) {
      const { page } = late
      const count = this.restarts ? this.number : this.options.pageCount
      const text = late.print({ ...late.at, page: { number: page.number, overall: page.overall, count, overallCount: this.options.pageCount } })
      page.items[late.item] = this.textItem(text, late.x, late.width, (page.items[late.item] as { y: number }).y, late.style)
    }
    this.late = []
    this.ready.push(...this.held)
    this.held = []
  }

  private textItem(text: string, x: number, width: number, y: number, style: ResolvedStyle): Page['items'][number] {
    const { font, size, colour, align } = style
    const start = align === 'left' ? x : align === 'right' ? x + width - textWidth(text, font, size) : x + (width - textWidth(text, font, size)) / 2
    return { kind: 'text', x: start, y, text, font, size, colour }
  }

  /** Writes one line of text; `top` is the upper edge of the line. */
  writeLine(text: string, x: number, width: number, top: number, style: ResolvedStyle): void {
    if (text) this.page!.items.push(this.textItem(text, this.left + x, width, top + baseline(style.font, style.size), style))
  }

  /** Keeps a place for text that holds page words. */
  writeLate(print: PrintText, at: Standing, x: number, width: number, top: number, style: ResolvedStyle): void {
    const page = this.page!
    this.late.push({ page, item: page.items.length, print, at, x: this.left + x, width, style })
    page.items.push({ kind: 'text', x: this.left + x, y: top + baseline(style.font, style.size), text: '', font: style.font, size: style.size, colour: style.colour })
  }

  fill(x: number, y: number, width: number, height: number, colour: string): void {
    this.page!.items.push({ kind: 'fill', x: this.left + x, y, width, height, colour })
  }

  box(block: string, part: BoxPart, cell: string | undefined, x: number, y: number, width: number, height: number, at: { level: number, from: number }): void {
    if (!this.options.boxes) return
    const row = at.from + (at.level === 0 ? this.recordsBefore : 0)
    this.page!.boxes.push({ block, part, cell, x: this.left + x, y, width, height, level: at.level, row })
  }

  private* panel(panel: PreparedPanel, at: Standing): Generator<Page> {
    this.open()
    const { pieces, height } = measurePanel(this, panel, at)
    if (this.y > this.bodyTop && this.y + height > this.bodyBottom) yield* this.newPage()
    if (this.y + height <= this.bodyBottom) {
      this.drawPanel(panel, pieces, this.y, height, at)
      this.y += height
      return
    }
    // taller than a page: it breaks between lines of text, from its top to its bottom
    let shift = this.y
    let part: PanelPiece[] = []
    let first = 0
    let bottom = 0
    const drawPart = () => this.drawPanel(panel, part.map(piece => ({ ...piece, y: piece.y - first })).sort((a, b) => a.id < b.id ? -1 : a.id > b.id ? 1 : a.y - b.y), shift + first, bottom - first, at)
    for (const piece of [...pieces].sort((a, b) => a.y - b.y)) {
      if (part.length && shift + piece.y + piece.height > this.bodyBottom) {
        drawPart()
        yield* this.newPage()
        first = piece.y
        shift = this.y - first
        part = []
      }
      part.push(piece)
      bottom = piece.y + piece.height
    }
    drawPart()
    this.y = Math.min(shift + bottom, this.bodyBottom)
  }

  private drawPanel(panel: PreparedPanel, pieces: readonly PanelPiece[], top: number, height: number, at: Standing): void {
    const { block } = panel
    const { margins, width } = this.layout.page
    this.box(block.id, 'block', undefined, 0, top, width - margins.left - margins.right, height, at)
    if (this.options.boxes) this.itemBoxes(block.id, pieces, top, at)
    for (const piece of pieces) {
      const y = top + piece.y
      switch (piece.kind) {
        case 'line': this.writeLine(piece.text, piece.x, piece.width, y, piece.style); break
        case 'late': this.writeLate(piece.print, at, piece.x, piece.width, y, piece.style); break
        case 'rule': this.fill(piece.x, y, piece.width, piece.height, piece.colour); break
        case 'image': this.page!.items.push({ kind: 'shapes', x: this.left + piece.x, y, scale: piece.scale, shapes: piece.shapes }); break
      }
    }
  }

  /** One box around the pieces of each item, which stand together. */
  private itemBoxes(block: string, pieces: readonly PanelPiece[], top: number, at: Standing): void {
    for (let index = 0; index < pieces.length;) {
      const { id, x, y, width } = pieces[index]!
      let bottom = y
      for (; index < pieces.length && pieces[index]!.id === id; index++) bottom = pieces[index]!.y + pieces[index]!.height
      this.box(block, 'item', id, x, top + y, width, bottom - y, at)
    }
  }
}

/** Height of one line of a style. */
export function lineHeight(style: ResolvedStyle): number {
  return style.size * lineSpacing
}
