import type { LevelInfo, Typed } from '../formula/typed'
import type { Answer } from '../value/value'
import type { DataRecords } from '../value/records'
import { valueAt } from '../value/columns'
import type { FiscalCalendar } from '../books/calendar'
import { compileFormula, type Evaluate } from '../formula/evaluate'
import { Lineage } from '../formula/lineage'
import type { Standing } from '../formula/standing'
import type { Shaped } from '../shape/groups'
import { plainText } from '../value/plain'
import { type Day, dayText } from '../value/date'
import { baseline, textWidth } from './fonts'
import { shapeTable } from './grouping'
import type { LayoutNotice } from './notices'
import type { readPicture } from './pictures'
import type { BoxPart, Page } from './page'
import {
  bodyWidth,
  columnWidths,
  type PreparedBlock,
  type PreparedCell,
  type PreparedLayout,
  type PreparedPanel,
  type PreparedRepeat,
  type PreparedTable,
} from './prepare'
import { columnTails, type Geometry, measureRow } from './row'
import { type LaidStatement, layStatement, type PreparedStatement } from './statement'
import type { TieOutResult } from '../definition/tieOuts'
import { layTies, type PreparedTies } from './ties'
import { wideRemedies } from './statementWidths'
import { literalPieces } from './literal'
import { Remarks } from './remarks'
import { chartData, drawChart, type PreparedChart } from './chart'
import type { ResolvedStyle } from './style'
import { pageWordsOf } from './words'
import { markedLines, type MarkedPart, printRuns, type Run } from './rich'
import { type CheckedText, compilePart, compileText, type PrintText } from './text'
import { composeTable } from './table'
import { measurePanel, type PanelPiece } from './panel'

export interface ComposeOptions {
  levels: readonly LevelInfo[]
  parameters: Readonly<Record<string, Answer>>
  calendar?: FiscalCalendar
  today: Day
  /** make the boxes that the screen selects by */
  boxes?: boolean
  /** with the boxes, what tells rows apart in any run */
  keys?: boolean
  /** where each box stands is kept here, for what is behind a figure */
  trace?: Standing[]
  /** pages of the whole run, where an earlier pass has counted them */
  pageCount?: number
  /** the moment of the run, as text, for the time printed */
  printed?: string
  /** what the tie-outs came to, where they are printed */
  tieOuts?: readonly TieOutResult[]
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
 * Makes pages out of a layout and records, chunk after chunk of root records. Pages come out as soon as their document (the innermost
 * repeat that restarts numbers) is complete; without such a repeat, as soon as they are full.
 */
export class Composer {
  /** left edge of the text width, and the limits of the body on the current page */
  left: number
  y = 0
  bodyTop = 0
  bodyBottom = 0
  page: Page | undefined
  private ready: Page[] = []
  private held: Page[] = []
  private late: LateText[] = []
  private overall = 0
  private number = 0
  private restarts = 0
  private recordsBefore = 0
  data!: DataRecords
  lineage!: Lineage
  private texts = new Map<CheckedText, PrintText>()
  private label: string | undefined
  private standing: Standing = { level: 0, from: 0, to: 0 }
  private compiled = new Map<Typed, Evaluate>()
  private geometries = new Map<PreparedTable, Geometry>()
  private styles = new Map<PreparedCell, { put: readonly object[]; style: ResolvedStyle }[]>()
  readonly remarks = new Remarks(this)
  private column = 0
  private documentName: string | undefined
  /** language of what is being printed */
  language: string

  constructor(
    readonly layout: PreparedLayout,
    readonly options: ComposeOptions,
  ) {
    this.left = layout.page.margins.left
    this.language = layout.language
  }

  /** Formulas and texts speak of these records from now on. */
  use(data: DataRecords): void {
    this.data = data
    this.lineage = new Lineage(this.options.levels, data)
    this.texts = new Map()
    this.compiled = new Map()
    this.statements = new Map()
  }

  /** Pages completed by the next records, or by those of them whose root is `first` or comes after it. */
  *add(data: DataRecords, first = 0): Generator<Page> {
    this.use(data)
    const all: Standing = { level: 0, from: first, to: data.levels[0]!.count }
    yield* this.blocks(this.layout.blocks, all)
    this.recordsBefore += all.to
  }

  /** The pages that are still held when all records have come. */
  *end(): Generator<Page> {
    this.closePage()
    this.settle()
    yield* this.drain()
  }

  private *drain(): Generator<Page> {
    while (this.ready.length) yield this.ready.shift()!
  }

  private *blocks(list: readonly PreparedBlock[], at: Standing): Generator<Page> {
    for (const block of list) {
      if (block.showWhen && !this.holds(block.showWhen, at)) continue
      switch (block.kind) {
        case 'repeat':
          yield* this.repeat(block, at)
          break
        case 'panel':
          yield* this.panel(block, at)
          break
        case 'table':
          yield* this.tableBlock(block, at)
          break
        case 'statement':
          yield* this.statementBlock(block, at)
          break
        case 'chart':
          yield* this.chartBlock(block, at)
          break
        case 'ties':
          yield* this.tiesBlock(block, at)
          break
        case 'break':
          if (this.page && this.y > this.bodyTop) yield* this.newPage()
          break
      }
      if (block.kind !== 'break' && this.page && this.y > this.bodyTop) this.y += block.block.after
    }
  }

  /** A formula compiled once for the records at hand. */
  evaluate(typed: Typed): Evaluate {
    let found = this.compiled.get(typed)
    if (!found)
      this.compiled.set(
        typed,
        (found = compileFormula(
          typed,
          { ...this.options, data: this.data, continued: pageWordsOf(this.language).continued },
          this.lineage,
        )),
      )
    return found
  }

  holds(rule: Typed, at: Standing): boolean {
    return this.evaluate(rule)(at) === true
  }

  private statements = new Map<PreparedStatement, Map<string, LaidStatement>>()
  /** A statement worked out for the records at hand; inside a repeat, for those under the record in which it stands. */
  statement(block: PreparedStatement, within: Standing = { level: 0, from: 0, to: this.data.levels[0]!.count }): LaidStatement {
    const rows = [...this.lineage.covered(within.from, within.to, within.level, block.level)]
    const known = this.statements.get(block) ?? new Map<string, LaidStatement>()
    this.statements.set(block, known)
    const key = `${this.language} ${JSON.stringify(rows)}`
    let found = known.get(key)
    if (!found) {
      const at: Standing =
        rows[0] && rows[0][1] > rows[0][0]
          ? { level: block.level, from: rows[0][0], to: rows[0][0] + 1 }
          : { level: block.level, from: 0, to: 0 }
      known.set(
        key,
        (found = layStatement(block, {
          data: this.data,
          rows,
          language: this.language,
          calendar: this.options.calendar,
          evaluate: typed => String(this.evaluate(typed)(at) ?? ''),
          print: text => this.print(text)(at),
          remark: (key, sentence, { kind, row } = {}) =>
            this.remarks.count(key, {
              kind: kind ?? 'accounts',
              block: block.block.id,
              ...(row ? { row } : {}),
              part: 'block',
              sentence,
              remedies: kind ? wideRemedies(block.block, this.layout.page) : [],
            }),
        })),
      )
    }
    return found
  }

  /** A statement that has been worked out, by the id of its block. */
  statementNamed(id: string): PreparedStatement | undefined {
    return [...this.statements.keys()].find(each => each.block.id === id)
  }

  private *statementBlock(block: PreparedStatement, at: Standing): Generator<Page> {
    const laid = this.statement(block, at)
    yield* composeTable(this, laid.table, at, literalPieces(laid, at))
  }

  private *chartBlock(chart: PreparedChart, at: Standing): Generator<Page> {
    this.open()
    const { block, statement, theme } = chart
    if (this.y > this.bodyTop && this.y + block.height > this.bodyBottom) yield* this.newPage()
    this.box(block.id, 'block', undefined, chart.x, this.y, chart.width, block.height, at)
    if (statement) {
      const data = chartData(chart, statement, this.statement(statement, at), {
        language: this.language,
        print: text => this.print(text)(at),
      })
      const items = drawChart(
        data,
        { x: this.left + chart.x, y: this.y, width: chart.width, height: block.height },
        { theme, ...(chart.title ? { title: this.print(chart.title)(at) } : {}), legend: block.legend, figures: block.figures },
      )
      this.page!.items.push(...items)
    }
    this.y += block.height
  }

  private *tiesBlock(ties: PreparedTies, at: Standing): Generator<Page> {
    const laid = layTies(ties, this.options.tieOuts, this.language)
    if (laid.rows.length) yield* composeTable(this, laid.table, at, literalPieces(laid, at))
  }

  /** A table at the bottom of the page is measured by laying it out on a page of its own first. */
  private *tableBlock(table: PreparedTable, at: Standing): Generator<Page> {
    if (table.block.atBottom) {
      this.open()
      const height = this.heightOf(table, at)
      if (this.y + height <= this.bodyBottom) this.y = this.bodyBottom - height
    }
    yield* composeTable(this, table, at)
  }

  /** Height that a table takes where it has all the room it needs. */
  private heightOf(table: PreparedTable, at: Standing): number {
    const { page, y, bodyTop, bodyBottom, late } = this
    const [items, boxes] = [page!.items.length, page!.boxes.length]
    this.y = this.bodyTop = 0
    this.bodyBottom = Number.MAX_SAFE_INTEGER
    this.late = []
    for (const _ of composeTable(this, table, at));
    const height = this.y
    page!.items.length = items
    page!.boxes.length = boxes
    Object.assign(this, { y, bodyTop, bodyBottom, late })
    return height
  }

  /** The rows of a table in printed order with their groups. */
  shape(table: PreparedTable, rows: Int32Array): Shaped {
    const shaped = shapeTable(table, rows, {
      data: this.data,
      lineage: this.lineage,
      evaluate: typed => this.evaluate(typed),
      calendar: this.options.calendar,
      language: this.language,
    })
    for (const { depth, label } of shaped.twins) {
      const { group } = table.groups[depth]!
      this.remarks.count(`twins ${table.block.id} ${group.id} ${label}`, {
        kind: 'twins',
        block: table.block.id,
        part: 'groupStart',
        sentence: `Two groups are called “${label}”; they stay apart, with their codes.`,
        remedies: [],
      })
    }
    this.remarks.split(table, shaped)
    this.remarks.dates(table, shaped.rows)
    return shaped
  }

  /** What has been noticed so far on layout and data. */
  notices(): LayoutNotice[] {
    return this.remarks.list()
  }

  /** A cell's style with the looks that hold, worked out once for each set of looks. */
  lookedStyle(cell: PreparedCell, put: readonly object[], make: () => ResolvedStyle): ResolvedStyle {
    const known = this.styles.get(cell) ?? []
    const found = known.find(each => each.put.length === put.length && each.put.every((style, index) => style === put[index]))
    if (found) return found.style
    const style = make()
    this.styles.set(cell, [...known, { put, style }])
    return style
  }

  /** Places and widths of a table's columns; those that fit their values are measured on the first rows that come. */
  geometry(table: PreparedTable, at: Standing): Geometry {
    let found = this.geometries.get(table)
    if (found) return found
    const own = table.columns
    found = { x: own.map(column => column.x), width: own.map(column => column.width), tails: columnTails(table, this.layout.language) }
    this.geometries.set(table, found)
    if (!own.some(({ column }) => column.fit)) return found
    const wide: Geometry = { ...found, width: own.map(({ column }, index) => (column.fit ? 4000 : found!.width[index]!)) }
    this.geometries.set(table, wide)
    const remarks = this.remarks.keep()
    const needed = own.map(() => 24)
    const { rows } = at.covered ?? { rows: Int32Array.of() }
    const node = at.covered?.node
    for (const row of table.rows) {
      const line = row.row.kind === 'line' || row.row.kind === 'extra'
      const standings: Standing[] = line
        ? Array.from(rows.subarray(0, 400), (record, place) => ({
            level: table.level,
            from: record,
            to: record + 1,
            covered: { rows, from: place, to: place + 1, node: node ?? at.covered!.node, line: true },
          }))
        : [at]
      if (row.depth >= 0 && !line) continue
      for (const each of standings) {
        for (const cell of measureRow(this, table, row, each, { repeats: new Map(), band: false }).cells) {
          const span = row.cells.find(prepared => prepared.id === cell.id)!.span
          if (span === 1 && own[cell.column]!.column.fit)
            needed[cell.column] = Math.max(
              needed[cell.column]!,
              ...cell.lines.map(
                text =>
                  textWidth(text, cell.style.font, cell.style.size) +
                  2 * table.theme.padding.x +
                  cell.style.indent +
                  (wide.tails[cell.column] ? 6 : 0) +
                  0.5,
              ),
            )
        }
      }
    }
    this.remarks.restore(remarks)
    const widths = columnWidths(
      own.map(({ column }, index) => ({ width: column.fit ? needed[index]! : column.width })),
      table.width,
    )
    let x = table.x
    found = { x: [], width: widths, tails: wide.tails }
    for (const width of widths) {
      found.x.push(x)
      x += width
    }
    this.geometries.set(table, found)
    return found
  }

  private *repeat(repeat: PreparedRepeat, at: Standing): Generator<Page> {
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
        const language = this.language
        if (repeat.language) this.speak(String(this.evaluate(repeat.language)(own) ?? this.layout.language))
        if (repeat.outline) this.label = this.print(repeat.outline)(own)
        if (this.layout.documentName && block.restartNumbers) this.documentName = this.print(this.layout.documentName)(own)
        yield* this.blocks(repeat.inner, own)
        if (block.restartNumbers) {
          this.closePage()
          this.settle()
          this.restarts--
        }
        this.standing = outer
        if (repeat.language) this.speak(language)
        yield* this.drain()
      }
    }
  }

  /** The text of a place, compiled once for the records at hand. */
  print(text: CheckedText): PrintText {
    let found = this.texts.get(text)
    if (!found)
      this.texts.set(
        text,
        (found = compileText(this.language === this.layout.language ? text : (text.inLanguage?.(this.language) ?? text), typed =>
          this.evaluate(typed),
        )),
      )
    return found
  }

  private readonly marked = new Map<CheckedText, MarkedPart[][]>()
  /** The lines of a text with marks, in runs of one look. */
  runs(text: CheckedText, at: Standing): Run[][] {
    const own = this.language === this.layout.language ? text : (text.inLanguage?.(this.language) ?? text)
    let lines = this.marked.get(own)
    if (!lines) this.marked.set(own, (lines = markedLines(own)))
    return printRuns(lines, part => compilePart(part, typed => this.evaluate(typed)), at)
  }

  /** Goes over to another language; texts are compiled anew for it. */
  speak(language: string): void {
    let known: string
    try {
      known = Intl.getCanonicalLocales(language)[0] ?? this.layout.language
    } catch {
      known = this.layout.language
    }
    if (known === this.language) return
    this.language = known
    this.texts = new Map()
    this.compiled = new Map()
  }

  /** Makes sure that there is a page to write on. */
  open(): void {
    if (this.page) return
    const { page } = this.layout
    this.overall++
    this.number++
    this.column = 0
    this.left = page.margins.left
    const first = this.number === 1
    const top = first && this.layout.firstTop ? this.layout.firstTop : this.layout.top
    const foot = first && this.layout.firstFoot ? this.layout.firstFoot : this.layout.foot
    const rootRow =
      this.standing.to > this.standing.from ? this.lineage.up(this.standing.from, this.standing.level, 0) + this.recordsBefore : -1
    this.page = {
      width: page.width,
      height: page.height,
      overall: this.overall,
      number: this.number,
      record: rootRow,
      items: [],
      boxes: [],
    }
    if (this.label !== undefined) this.page.label = this.label
    this.label = undefined
    if (this.documentName !== undefined) this.page.document = this.documentName
    this.documentName = undefined
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
    if (this.options.boxes) this.page.bodyBottom = this.bodyBottom
    this.y = this.bodyTop
  }

  /** Goes on in the next column of the page, or on the next page. */
  *newPage(): Generator<Page> {
    const { columns } = this.layout.page
    if (this.page && columns && this.column + 1 < columns.count) {
      this.column++
      this.left = this.layout.page.margins.left + this.column * (bodyWidth(this.layout.page) + columns.gap)
      this.y = this.bodyTop
      return
    }
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
      const text = late.print({
        ...late.at,
        page: {
          number: page.number,
          overall: page.overall,
          ...(count === undefined ? {} : { count }),
          ...(this.options.pageCount === undefined ? {} : { overallCount: this.options.pageCount }),
          ...(this.options.printed === undefined ? {} : { printed: this.options.printed }),
        },
      })
      page.items[late.item] = this.textItem(text, late.x, late.width, (page.items[late.item] as { y: number }).y, late.style)
    }
    this.late = []
    this.ready.push(...this.held)
    this.held = []
  }

  private textItem(text: string, x: number, width: number, y: number, style: ResolvedStyle): Page['items'][number] {
    const { font, size, colour, align } = style
    const start =
      align === 'left' ? x : align === 'right' ? x + width - textWidth(text, font, size) : x + (width - textWidth(text, font, size)) / 2
    return { kind: 'text', x: start, y, text, font, size, colour }
  }

  /** Writes one line of text; `top` is the upper edge of the line. */
  writeLine(text: string, x: number, width: number, top: number, style: ResolvedStyle): void {
    if (text) this.page!.items.push(this.textItem(text, this.left + x, width, top + baseline(style.font, style.size), style))
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
    if ('data' in found) this.page!.items.push({ kind: 'bitmap', x: this.left + x, y, width, height, data: found.data })
    else this.page!.items.push({ kind: 'shapes', x: this.left + x, y, scale: width / found.width, shapes: found.shapes })
  }

  /** Keeps a place for text that holds page words. */
  writeLate(print: PrintText, at: Standing, x: number, width: number, top: number, style: ResolvedStyle): void {
    const page = this.page!
    this.late.push({ page, item: page.items.length, print, at, x: this.left + x, width, style })
    page.items.push({
      kind: 'text',
      x: this.left + x,
      y: top + baseline(style.font, style.size),
      text: '',
      font: style.font,
      size: style.size,
      colour: style.colour,
    })
  }

  fill(x: number, y: number, width: number, height: number, colour: string): void {
    this.page!.items.push({ kind: 'fill', x: this.left + x, y, width, height, colour })
  }

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
  ): void {
    if (!this.options.boxes) return
    const row = at.from + (at.level === 0 ? this.recordsBefore : 0)
    this.page!.boxes.push({
      block,
      part,
      cell,
      x: this.left + x,
      y,
      width,
      height,
      level: at.level,
      row,
      ...(rowId ? { rowId } : {}),
      ...(key === undefined ? {} : { key }),
      ...(this.options.trace ? { standing: this.options.trace.push(at) - 1 } : {}),
    })
  }

  /**
   * What tells a row of a block from all others in any run: the key of its record, or the labels of its groups, under the record in which
   * the block stands. Nothing where it only stands again.
   */
  rowKey(at: Standing): string | undefined {
    if (!this.options.keys || at.continued) return undefined
    const within = at.outer ?? this.standing
    if (at.covered?.line || (!at.covered && at.to - at.from === 1)) return this.recordKey(at.level, at.from)
    const labels: string[] = []
    for (let node = at.covered?.node; node && node.depth >= 0; node = node.parent) labels.unshift(node.others ? 'all others' : node.label)
    return JSON.stringify([within.to - within.from === 1 ? this.recordKey(within.level, within.from) : '', ...labels])
  }

  private recordKey(level: number, row: number): string {
    const { columns } = this.data.levels[level]!
    return JSON.stringify(
      this.options.levels[level]!.key.map(path => (columns[path] ? plainText(valueAt(columns[path], row), dayText) : row)),
    )
  }

  private *panel(panel: PreparedPanel, at: Standing): Generator<Page> {
    this.open()
    const key = this.rowKey(at)
    const { pieces, height } = measurePanel(this, panel, at)
    if (this.y > this.bodyTop && this.y + height > this.bodyBottom) yield* this.newPage()
    if (panel.block.atBottom) this.y = Math.max(this.y, this.bodyBottom - height)
    if (this.y + height <= this.bodyBottom) {
      this.drawPanel(panel, pieces, this.y, height, at, key)
      this.y += height
      return
    }
    // taller than a page: it breaks between lines of text, from its top to its bottom
    let shift = this.y
    let part: PanelPiece[] = []
    let first = 0
    let bottom = 0
    const drawPart = () =>
      this.drawPanel(
        panel,
        part.map(piece => ({ ...piece, y: piece.y - first })).sort((a, b) => (a.id < b.id ? -1 : a.id > b.id ? 1 : a.y - b.y)),
        shift + first,
        bottom - first,
        at,
        key,
      )
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

  private drawPanel(panel: PreparedPanel, pieces: readonly PanelPiece[], top: number, height: number, at: Standing, key?: string): void {
    const { block } = panel
    this.box(block.id, 'block', undefined, 0, top, bodyWidth(this.layout.page), height, at, undefined, key)
    if (this.options.boxes) this.itemBoxes(block.id, pieces, top, at)
    for (const piece of pieces) {
      const y = top + piece.y
      switch (piece.kind) {
        case 'line':
          if (piece.style.rotated) this.writeUp(piece.text, piece.x, y + piece.height, piece.style)
          else this.writeLine(piece.text, piece.x, piece.width, y, piece.style)
          break
        case 'late':
          this.writeLate(piece.print, at, piece.x, piece.width, y, piece.style)
          break
        case 'rule':
          if (piece.colour) this.fill(piece.x, y, piece.width, piece.height, piece.colour)
          break
        case 'image':
          this.page!.items.push({
            kind: 'shapes',
            x: this.left + piece.x,
            y,
            scale: piece.scale,
            ...(piece.scaleY === undefined ? {} : { scaleY: piece.scaleY }),
            shapes: piece.shapes,
          })
          break
        case 'link':
          this.page!.items.push({ kind: 'link', x: this.left + piece.x, y, width: piece.width, height: piece.height, href: piece.href })
          break
        case 'bitmap':
          this.page!.items.push({ kind: 'bitmap', x: this.left + piece.x, y, width: piece.width, height: piece.height, data: piece.data })
          break
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
