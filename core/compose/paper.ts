import type { Standing } from '../formula/standing'
import { baseline, textWidth } from './fonts'
import type { BoxPart, Page } from './page'
import { bodyWidth } from './paperSize'
import type { readPicture } from './pictures'
import type { PreparedLayout } from './prepared'
import type { ResolvedStyle } from './style'
import { Tagger } from './tagger'
import type { PrintText } from './text'

export interface PaperOptions {
  /** make the boxes that the screen selects by */
  boxes?: boolean
  /** with the boxes, what tells rows apart in any run */
  keys?: boolean
  /** where each box stands is kept here, for what is behind a figure */
  trace?: Standing[]
  /** boxes are made on this page alone, counted from 1 over the run */
  only?: number
  /** pages of the whole run, where an earlier pass has counted them */
  pageCount?: number
  /** the moment of the run, as text, for the time printed */
  printed?: string
  /** pages are only counted: they break where they would, and nothing is drawn on them */
  dry?: boolean
  /** pages say what is read of them, and in which order */
  tags?: boolean
}

interface LateText {
  page: Page
  item: number
  print: PrintText
  at: Standing
  x: number
  width: number
  style: ResolvedStyle
}

/**
 * Something with others inside it while these are written: how far to the right they stand, and what it does as they go over pages.
 */
export interface Nesting {
  x: number
  /** a nested report: nothing in it is a place of its own on the page */
  report?: boolean
  leaves: () => void
  enters: () => void
}

/**
 * The pages that are written on: a cursor, what is drawn at it, and the break to the next page. Pages come out as soon as their document
 * (the innermost stretch that restarts numbers) is complete; without one, as soon as they are full.
 */
export class Paper {
  page: Page | undefined
  /** the place of the cursor, and the limits of the body on the current page; points from its top left */
  y = 0
  bodyTop = 0
  bodyBottom = 0
  /** how the next page begins: its foot and top are drawn, and it is told which record it stands on */
  opening: (page: Page) => void = () => {}
  /** root records of chunks before the one at hand */
  recordsBefore = 0
  private ready: Page[] = []
  private held: Page[] = []
  private late: LateText[] = []
  private overall = 0
  private number = 0
  private restarts = 0
  private column = 0
  /** the nested reports that are being written, outer ones first, and how far to the right of their surroundings they stand */
  private nestings: Nesting[] = []
  /** says what is to be read; nothing where nobody asks */
  readonly tagger: Tagger | undefined

  constructor(
    readonly layout: PreparedLayout,
    readonly options: PaperOptions,
  ) {
    if (options.tags) this.tagger = new Tagger(() => this.page!)
  }

  /** Left edge of what blocks can fill. */
  get left(): number {
    const { page } = this.layout
    const columns = this.column && page.columns ? this.column * (bodyWidth(page) + page.columns.gap) : 0
    return page.margins.left + columns + this.nestings.reduce((sum, each) => sum + each.x, 0)
  }

  /** A nested report, or what stands around one, begins; in a report nothing begins page numbers anew. */
  nest(nesting: Nesting): void {
    this.nestings.push(nesting)
  }

  unnest(): void {
    this.nestings.pop()
  }

  /** Is a nested report being written? It takes the height that it needs, and nothing of it stands at the bottom of a page. */
  get nested(): boolean {
    return this.nestings.some(each => each.report)
  }

  /** Writes what stands around the nested reports that are being written. */
  private outside(write: () => void, nestings: Nesting[] = []): void {
    const kept = this.nestings
    this.nestings = nestings
    write()
    this.nestings = kept
  }

  /** The nested reports hear that a page or column ends, or has begun, each as if it were not within itself. */
  private tell(what: 'leaves' | 'enters'): void {
    this.nestings.forEach((each, at, all) => this.outside(() => each[what](), all.slice(0, at)))
  }

  get dry(): boolean {
    return this.options.dry === true
  }

  get bodyHeight(): number {
    return this.bodyBottom - this.bodyTop
  }

  /** Nothing stands on the current page yet. */
  get fresh(): boolean {
    return this.y <= this.bodyTop
  }

  /** Makes sure that there is a page to write on. */
  open(): void {
    if (this.page) return
    const { page } = this.layout
    this.overall++
    this.number++
    this.column = 0
    this.page = { width: page.width, height: page.height, overall: this.overall, number: this.number, record: -1, items: [], boxes: [] }
    this.held.push(this.page)
    this.bodyTop = page.margins.top
    this.bodyBottom = page.height - page.margins.bottom
    this.outside(() => this.opening(this.page!))
    // a page top and foot that leave no room would never end; the body keeps a third of the page
    const least = page.height / 3
    if (this.bodyHeight < least) this.bodyBottom = this.bodyTop + least
    if (this.options.boxes) this.page.bodyBottom = this.bodyBottom
    this.y = this.bodyTop
    this.tell('enters')
  }

  /** Goes on in the next column of the page, or on the next page. */
  *newPage(): Generator<Page> {
    const { page } = this.layout
    if (this.page && page.columns && this.column + 1 < page.columns.count) {
      this.tell('leaves')
      this.column++
      this.y = this.bodyTop
      this.tell('enters')
      return
    }
    this.close()
    if (!this.restarts) {
      this.settle()
      yield* this.drain()
    }
    this.open()
  }

  close(): void {
    if (this.page) this.tell('leaves')
    this.page = undefined
  }

  /** A stretch with page numbers of its own begins. */
  restart(): void {
    this.close()
    if (this.nested) return
    this.settle()
    this.restarts++
    this.number = 0
  }

  /** It ends: its pages can go. */
  finish(): void {
    if (this.nested) return
    this.close()
    this.settle()
    this.restarts--
  }

  /** All that is written is complete. */
  end(): void {
    this.close()
    this.settle()
  }

  *drain(): Generator<Page> {
    while (this.ready.length) yield this.ready.shift()!
  }

  /** Fills in the page words of the held pages and lets them go. */
  private settle(): void {
    const { pageCount, printed } = this.options
    for (const late of this.late) {
      const { page } = late
      const count = this.restarts ? this.number : pageCount
      const text = late.print({
        ...late.at,
        page: {
          number: page.number,
          overall: page.overall,
          ...(count === undefined ? {} : { count }),
          ...(pageCount === undefined ? {} : { overallCount: pageCount }),
          ...(printed === undefined ? {} : { printed }),
        },
      })
      page.items[late.item] = textItem(text, late.x, late.width, (page.items[late.item] as { y: number }).y, late.style)
    }
    this.late = []
    this.ready.push(...this.held)
    this.held = []
  }

  /** How far down something comes that is drawn with all the room it needs; nothing of it stays. */
  measured(draw: () => void): number {
    const { page, y, bodyTop, bodyBottom, late } = this
    const [items, boxes, tags] = [page!.items.length, page!.boxes.length, page!.tags?.length ?? 0]
    this.y = this.bodyTop = 0
    this.bodyBottom = Number.MAX_SAFE_INTEGER
    this.late = []
    draw()
    const height = this.y
    page!.items.length = items
    page!.boxes.length = boxes
    if (page!.tags) page!.tags.length = tags
    Object.assign(this, { y, bodyTop, bodyBottom, late })
    return height
  }

  /** Writes one line of text; `top` is the upper edge of the line. */
  writeLine(text: string, x: number, width: number, top: number, style: ResolvedStyle): void {
    if (text) this.page!.items.push(textItem(text, this.left + x, width, top + baseline(style.font, style.size), style))
  }

  /** Writes one line of text upwards, starting at a point. */
  writeUp(text: string, x: number, y: number, style: ResolvedStyle): void {
    const { font, size, colour } = style
    if (text) this.page!.items.push({ kind: 'text', x: this.left + x + baseline(font, size), y, text, font, size, colour, rotated: true })
  }

  /** A place that leads to an address. */
  link(href: string, x: number, y: number, width: number, height: number): void {
    this.page!.items.push({ kind: 'link', x: this.left + x, y, width, height, href })
  }

  /** Draws a picture at a size in points. */
  picture(found: ReturnType<typeof readPicture>, x: number, y: number, width: number, height: number): void {
    const at = { x: this.left + x, y }
    if ('data' in found) this.page!.items.push({ kind: 'bitmap', ...at, width, height, data: found.data })
    else this.page!.items.push({ kind: 'shapes', ...at, scale: width / found.width, shapes: found.shapes })
  }

  /** Keeps a place for text that holds page words. */
  writeLate(print: PrintText, at: Standing, x: number, width: number, top: number, style: ResolvedStyle): void {
    const page = this.page!
    const { font, size, colour } = style
    this.late.push({ page, item: page.items.length, print, at, x: this.left + x, width, style })
    page.items.push({ kind: 'text', x: this.left + x, y: top + baseline(font, size), text: '', font, size, colour })
  }

  fill(x: number, y: number, width: number, height: number, colour: string): void {
    this.page!.items.push({ kind: 'fill', x: this.left + x, y, width, height, colour })
  }

  /** What can be selected; `key` tells a row from all others in any run. */
  box(
    block: string,
    part: BoxPart,
    cell: string | undefined,
    x: number,
    y: number,
    width: number,
    height: number,
    at: Standing,
    rowId?: string,
    key?: string,
    label?: string,
  ): void {
    const { boxes, trace, only } = this.options
    if (!boxes || this.nested || (only !== undefined && this.page!.overall !== only)) return
    this.page!.boxes.push({
      block,
      part,
      cell,
      x: this.left + x,
      y,
      width,
      height,
      level: at.level,
      row: at.from + (at.level === 0 ? this.recordsBefore : 0),
      ...(rowId ? { rowId } : {}),
      ...(key === undefined ? {} : { key }),
      ...(label ? { label } : {}),
      ...(trace ? { standing: trace.push(at) - 1 } : {}),
    })
  }
}

function textItem(text: string, x: number, width: number, y: number, style: ResolvedStyle): Page['items'][number] {
  const { font, size, colour, align } = style
  const start =
    align === 'left' ? x : align === 'right' ? x + width - textWidth(text, font, size) : x + (width - textWidth(text, font, size)) / 2
  return { kind: 'text', x: start, y, text, font, size, colour }
}
