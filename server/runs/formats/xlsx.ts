import { serialOf } from '../../../core/value/moment'
import { createRequire } from 'node:module'
import type ExcelJS from 'exceljs'
import type { Writable } from 'node:stream'
import type { GridCell, GridColumns, GridEvent, GridRow } from '../../../core/compose/gridRows'
import { LiveTotals } from '../../../core/compose/liveTotals'
import type { ResolvedStyle } from '../../../core/compose/style'
import type { PageSetup } from '../../../core/definition/page'
import type { LevelInfo } from '../../../core/formula/typed'
import type { DataRecords } from '../../../core/value/records'
import { valueAt } from '../../../core/value/columns'
import type { Value } from '../../../core/value/value'
import { defaultPattern } from '../../../core/compose/text'
import { decimalText, toNumber } from '../../../core/value/decimal'
import { numberParts } from '../../../core/value/patternText'
import { levelPaths } from './rows'
import { allowed } from './xml'
import { dateFormatOf, numberFormatOf, sheetName } from './sheetFormats'
import type { SheetsBy } from '../../../core/api/outputs'
export interface XlsxOptions {
  title: string
  sheets: SheetsBy
  columns: GridColumns
  /** depth of the deepest outline */
  depth: number
  page: PageSetup
  /** what stands on the sheet “Parameters”: label and answer */
  facts: readonly (readonly [string, string])[]
}

/** Day 0 of our dates (1 January 1970) as a workbook counts days (ECMA-376, 18.17.4.1). */
const firstSerial = 25569
const paper: Record<PageSetup['size'], number | undefined> = { A4: 9, A3: 8, A5: 11, Letter: 1, Legal: 5, own: undefined }
/** Rows looked at before a sheet is begun, to know where its titles end. */
const lookAhead = 60
/** Names for totals: a workbook that has thousands of them opens slowly. */
const mostNames = 500

/** Cells of a column added up and taken off; a stretch of several as SUM. */
function termsOf(terms: readonly { row: number; by: 1 | -1 }[], letter: string): string {
  let text = ''
  for (let from = 0; from < terms.length;) {
    const { row, by } = terms[from]!
    let to = from
    while (terms[to + 1]?.by === by && terms[to + 1]!.row === row + to + 1 - from) to++
    text += `${by < 0 ? '-' : text ? '+' : ''}${to > from ? `SUM(${letter}${row}:${letter}${row + to - from})` : `${letter}${row}`}`
    from = to + 1
  }
  return text
}

/**
 * Writes rows of a layout as a workbook, sheet after sheet, row after row: real numbers, dates and formats, an outline that folds, totals
 * as formulas wherever the cells give our figure.
 */
export class XlsxWriter {
  private readonly book: ExcelJS.stream.xlsx.WorkbookWriter
  private readonly taken = new Set<string>(['parameters'])
  private sheet: ExcelJS.Worksheet | undefined
  private waiting: GridRow[] = []
  /** page top and titles, which stand again on the sheet of each group */
  private lead: GridRow[] = []
  private live = new LiveTotals()
  private row = 0
  private names = 0
  private name: string
  private readonly named = new Set<string>()
  private since = 0

  constructor(
    out: Writable,
    private options: XlsxOptions,
  ) {
    const { stream } = createRequire(import.meta.url)('exceljs') as typeof ExcelJS
    this.book = new stream.xlsx.WorkbookWriter({
      stream: out as never,
      useStyles: true,
      useSharedStrings: false,
      zip: { zlib: { level: 1 } } as never,
    })
    this.book.creator = 'Estante'
    this.name = options.title
  }

  /** Takes in what comes next; where it returns a promise, it is to be waited for. */
  add(event: GridEvent): Promise<void> | undefined {
    if ('document' in event) {
      if (this.options.sheets === 'documents') return this.turn(event.document)
      this.live = new LiveTotals()
      return undefined
    }
    if ('group' in event) return this.options.sheets === 'groups' ? this.turn(event.group) : undefined
    if ('cells' in event) return undefined
    if ('picture' in event) {
      for (const row of event.rows) this.take(row)
      return undefined
    }
    const { row } = event
    // what stands at the end of the table belongs to no group: it gets a sheet of its own, with values
    const apart =
      this.options.sheets === 'groups' && this.sheet && row.kind === 'end' && !row.nodes.length && this.name !== this.options.title
    if (apart) return this.turn(this.options.title).then(() => this.take(row))
    this.take(row)
    // lets the packed bytes flow out before more come
    return ++this.since % 500 === 0 ? new Promise(resolve => setImmediate(resolve)) : undefined
  }

  private take(row: GridRow): void {
    if (this.sheet) {
      this.write(row)
      return
    }
    this.waiting.push(row)
    if ((row.kind !== 'panel' && row.kind !== 'titles' && row.kind !== 'groupStart') || this.waiting.length >= lookAhead) this.begin()
  }

  /** What comes next is another layout, on a sheet of its own. */
  async part(title: string, sheet: Pick<XlsxOptions, 'columns' | 'depth' | 'page'>): Promise<void> {
    await this.close()
    this.options = { ...this.options, ...sheet, title }
    this.name = title
    this.lead = []
  }

  /** Rows of a level as they were read, on a sheet of their own. */
  async rows(level: LevelInfo, chunks: AsyncIterable<DataRecords>): Promise<void> {
    await this.close()
    const paths = levelPaths(level)
    const sheet = this.book.addWorksheet(this.unique(`Rows ${level.caption}`), { views: [{ state: 'frozen', ySplit: 1 }] })
    sheet.columns = paths.map(() => ({ width: 16 }))
    const head = sheet.addRow(paths.map(path => allowed(level.fields.get(path)?.caption ?? path)))
    head.eachCell(cell => (cell.style = titleStyle))
    head.commit()
    const patterns = paths.map(path => {
      const field = level.fields.get(path)
      return field?.format ?? defaultPattern(field?.type ?? 'empty', field)
    })
    const formats = paths.map((path, at) => {
      const field = level.fields.get(path)
      const pattern = patterns[at]
      return field?.type === 'number'
        ? { numFmt: numberFormatOf(pattern ?? '0.######') }
        : field?.type === 'date'
          ? { numFmt: dateFormatOf(pattern ?? 'yyyy-MM-dd') }
          : field?.type === 'moment'
            ? { numFmt: dateFormatOf(pattern ?? 'yyyy-MM-dd HH:mm') }
            : undefined
    })
    let since = 0
    for await (const data of chunks) {
      const records = data.levels[level.index]!
      const columns = paths.map(path => records.columns[path]!)
      for (let row = 0; row < records.count; row++) {
        const line = sheet.addRow(columns.map((column, at) => plainValue(valueAt(column, row), patterns[at])))
        formats.forEach((format, index) => {
          if (format) line.getCell(index + 1).style = format
        })
        line.commit()
        if (++since % 500 === 0) await new Promise(resolve => setImmediate(resolve))
      }
    }
    sheet.commit()
  }

  async end(): Promise<void> {
    await this.close()
    const sheet = this.book.addWorksheet('Parameters', {})
    sheet.columns = [{ width: 34 }, { width: 60 }]
    for (const [label, answer] of this.options.facts) {
      const row = sheet.addRow([allowed(label), allowed(answer).slice(0, longestCell)])
      row.getCell(1).style = { font: { bold: true } }
      row.getCell(2).style = { alignment: { wrapText: true, vertical: 'top' } }
      row.commit()
    }
    sheet.commit()
    await this.book.commit()
  }

  private unique(text: string): string {
    const name = sheetName(text, this.taken)
    this.taken.add(name.toLowerCase())
    return name
  }

  /** A new sheet for what comes; rows that stand before the first one go on it. */
  private async turn(name: string): Promise<void> {
    if (this.sheet) {
      await this.close()
      if (this.options.sheets === 'groups') this.waiting = [...this.lead]
    }
    this.name = name || this.options.title
  }

  private async close(): Promise<void> {
    if (!this.sheet && this.waiting.length) this.begin()
    if (!this.sheet) return
    const { sheet } = this
    this.sheet = undefined
    this.row = 0
    this.live = new LiveTotals()
    sheet.commit()
    await new Promise(resolve => setImmediate(resolve))
  }

  private begin(): void {
    const { page, columns, depth } = this.options
    const titles = this.waiting.findLastIndex(row => row.kind === 'titles') + 1
    const inches = (points: number) => Math.round((points / 72) * 100) / 100
    const size = paper[page.size]
    const sheet = this.book.addWorksheet(this.unique(this.name), {
      // a heading as tall as half a screen would leave no room for rows
      views: titles && titles <= 14 ? [{ state: 'frozen', ySplit: titles }] : [],
      properties: { outlineLevelRow: Math.min(7, depth) } as never,
      pageSetup: {
        ...(size ? { paperSize: size } : {}),
        orientation: page.orientation,
        fitToPage: true,
        fitToWidth: 1,
        fitToHeight: 0,
        margins: {
          left: inches(page.margins.left),
          right: inches(page.margins.right),
          top: inches(page.margins.top),
          bottom: inches(page.margins.bottom),
          header: 0.2,
          footer: 0.2,
        },
        ...(titles ? { printTitlesRow: `${this.waiting.findLastIndex(row => row.kind === 'titles') + 1}:${titles}` } : {}),
      } as never,
      headerFooter: { oddFooter: '&CPage &P of &N' },
    })
    sheet.columns = columns.width.map(points => ({ width: Math.max(3, Math.round((points / 5.3) * 10) / 10) }))
    this.sheet = sheet
    const rows = this.waiting
    this.waiting = []
    this.lead = rows.filter(each => each.kind === 'panel' || each.kind === 'titles')
    rows.forEach(row => this.write(row))
  }

  private write(row: GridRow): void {
    const sheet = this.sheet!
    const number = ++this.row
    const live = this.live.row(row, number)
    const line = sheet.getRow(number)
    if (row.depth) line.outlineLevel = Math.min(7, row.depth)
    const look = this.look(row)
    if (look.frame) for (let column = 0; column < this.options.columns.x.length; column++) line.getCell(column + 1).style = look.frame
    for (const cell of row.cells) {
      const place = line.getCell(cell.column + 1)
      const total = live.get(cell)
      const value = plainValue(cell.value === undefined ? cell.text : cell.value, cell.pattern)
      if (total) {
        const letter = columnLetter(total.column)
        place.value = {
          formula:
            'terms' in total ? termsOf(total.terms, letter) : `SUBTOTAL(${total.function},${letter}${total.from}:${letter}${total.to})`,
          result: value as number,
        }
      } else place.value = value
      place.style = this.style(cell, row, look)
      // a heading stands over all of its columns
      if (row.kind === 'titles' && cell.span) sheet.mergeCells(number, cell.column + 1, number, cell.column + cell.span)
      if (row.kind === 'end' && typeof value === 'number') this.nameCell(row, cell, number)
    }
    line.commit()
  }

  /** Totals at the end of a table can be spoken of by name: table, column, and the sheet where there are several. */
  private nameCell(row: GridRow, cell: GridCell, number: number): void {
    if (this.names >= mostNames) return
    const plain = (text: string) =>
      text
        .normalize('NFKD')
        .replace(/[^\p{L}\p{N}]+/gu, '_')
        .replace(/^_+|_+$/g, '')
    const stem = `${plain(row.table!)}_${plain(cell.id)}_total${this.options.sheets === 'one' ? '' : `_${plain(this.sheet!.name)}`}`
    // a name may not look like a place such as A1
    let name = /^\p{L}/u.test(stem) ? stem : `t_${stem}`
    for (let again = 2; this.named.has(name.toLowerCase()); again++) name = `${stem}_${again}`
    this.named.add(name.toLowerCase())
    this.names++
    ;(this.book as unknown as { definedNames: { add: (place: string, name: string) => void } }).definedNames.add(
      `'${this.sheet!.name.replaceAll("'", "''")}'!$${columnLetter(cell.column)}$${number}`,
      name.slice(0, 200),
    )
  }

  private readonly looks = new Map<string, RowLook>()
  private look(row: GridRow): RowLook {
    const key = row.fill || row.above || row.below ? `${row.fill} ${row.above} ${row.below}` : ''
    let found = this.looks.get(key)
    if (!found)
      this.looks.set(
        key,
        (found = { frame: key ? frameOf(row) : undefined, number: new Map(), date: new Map(), text: new Map(), wrapped: new Map() }),
      )
    return found
  }

  /** Cells of one look share one object, by which the library knows them. */
  private style(cell: GridCell, row: GridRow, look: RowLook): Partial<ExcelJS.Style> {
    const wraps = row.kind === 'titles' || cell.text.includes('\n')
    const kind =
      cell.value === undefined || cell.value === null
        ? wraps
          ? 'wrapped'
          : 'text'
        : typeof cell.value === 'number' || typeof cell.value === 'bigint'
          ? 'date'
          : 'number'
    let known = look[kind].get(cell.style)
    if (!known) look[kind].set(cell.style, (known = new Map()))
    let found = known.get(cell.pattern)
    if (!found) {
      const { style } = cell
      found = {
        ...look.frame,
        font: {
          name: style.font.startsWith('serif') ? 'Times New Roman' : 'Arial',
          size: style.size,
          ...(/Bold/.test(style.font) ? { bold: true } : {}),
          ...(/Italic/.test(style.font) ? { italic: true } : {}),
          color: { argb: `FF${style.colour.slice(1).toUpperCase()}` },
        },
        alignment: {
          horizontal: style.align === 'centre' ? 'center' : style.align,
          vertical: 'top',
          ...(style.indent && style.align === 'left' ? { indent: Math.round(style.indent / 6) } : {}),
          ...(wraps ? { wrapText: true } : {}),
        },
        ...(style.fill ? { fill: { type: 'pattern', pattern: 'solid', fgColor: { argb: `FF${style.fill.slice(1).toUpperCase()}` } } } : {}),
        ...(kind === 'number'
          ? { numFmt: numberFormatOf(cell.pattern ?? '0.######') }
          : kind === 'date'
            ? { numFmt: dateFormatOf(cell.pattern ?? (typeof cell.value === 'bigint' ? 'yyyy-MM-dd HH:mm' : 'yyyy-MM-dd')) }
            : {}),
      }
      known.set(cell.pattern, found)
    }
    return found
  }
}

/**
 * What rows of one fill and one pair of rules share: the style of places without a cell, and those of cells by kind of value, style and
 * pattern.
 */
type Styles = Map<ResolvedStyle, Map<string | undefined, Partial<ExcelJS.Style>>>
interface RowLook {
  frame: Partial<ExcelJS.Style> | undefined
  number: Styles
  date: Styles
  text: Styles
  wrapped: Styles
}

const titleStyle: Partial<ExcelJS.Style> = { font: { bold: true }, border: { bottom: { style: 'thin' } } }
const lines: Record<string, ExcelJS.BorderStyle> = { hair: 'hair', thin: 'thin', thick: 'medium', double: 'double' }

function frameOf(row: GridRow): Partial<ExcelJS.Style> {
  return {
    ...(row.fill ? { fill: { type: 'pattern', pattern: 'solid', fgColor: { argb: `FF${row.fill.slice(1).toUpperCase()}` } } } : {}),
    ...(row.above || row.below
      ? {
          border: {
            ...(row.above ? { top: { style: lines[row.above]! } } : {}),
            ...(row.below ? { bottom: { style: lines[row.below]! } } : {}),
          },
        }
      : {}),
  }
}

/**
 * A value as a workbook holds it. A workbook keeps 15 digits of a number: one that has more stays text, unless all that its pattern shows
 * is among them, as of an average or another quotient.
 */
export function plainValue(value: Value | string, pattern?: string): string | number | boolean | null {
  if (typeof value === 'string') return allowed(value).slice(0, longestCell) || null
  if (value === null || typeof value === 'boolean') return value
  if (typeof value === 'number') return value + firstSerial
  if (typeof value === 'bigint') return serialOf(value)
  // most numbers have far fewer digits
  if (typeof value.units === 'number' && Math.abs(value.units) < 1e15) return toNumber(value)
  const text = decimalText(value)
  if (text.replace(/^-?0?\.?0*|\./g, '').length <= 15) return toNumber(value)
  const decimals = shownDecimals(pattern)
  const whole = text.replace(/^-?0?|\..*$/g, '').length
  return decimals !== undefined && whole + decimals <= 15 ? toNumber(value) : text
}

/** Letters that a cell can hold (ECMA-376, as spreadsheets keep to it). */
const longestCell = 32_767

/** How many decimals of a number its pattern shows. */
function shownDecimals(pattern: string | undefined): number | undefined {
  const part = pattern === undefined ? undefined : numberParts(pattern)?.[0]?.part
  return part && part.fraction.length + (part.percent ? 2 : 0)
}

/** 0 → A, 25 → Z, 26 → AA. */
export function columnLetter(column: number): string {
  return column < 26
    ? String.fromCharCode(65 + column)
    : columnLetter(Math.floor(column / 26) - 1) + String.fromCharCode(65 + (column % 26))
}
