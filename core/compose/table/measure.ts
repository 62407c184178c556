import { columnWidths } from '../columnWidths'
import type { Place } from '../place'
import type { PrintText } from '../text'
import { lineHeight, type ResolvedStyle, resolveStyle } from '../style'
import { wrapRuns } from '../rich'
import { readPicture } from '../pictures'
import type { PreparedCell, PreparedRow, PreparedTable } from '../prepared'
import type { Standing } from '../../formula/standing'
import { numberMarks } from '../../value/numberFormat'
import { textWidth } from '../fonts'
import { styled } from './looks'
import { PictureError } from '../svgShapes'
import type { RowKind } from '../../definition/blocks/table'
import { cutText, shrunkSize, wrapText } from '../wrap'

interface MeasuredCell {
  id: string
  column: number
  x: number
  width: number
  lines: string[]
  late?: PrintText
  style: ResolvedStyle
  /** points that a number's end keeps free, so that decimal marks stand under one another */ tails?: number[]
  /** stretches of one look, line by line, of a text with marks */ runs?: ReturnType<typeof wrapRuns>
  picture?: { found: ReturnType<typeof readPicture>; width: number; height: number }
}
export interface MeasuredRow {
  row: PreparedRow
  at: Standing
  cells: MeasuredCell[]
  height: number
  /** most lines of text in a cell */
  textLines: number
  fill?: string
  /** texts of the columns that print a repeated value once */
  said: Map<string, string>
}

/** What the columns that print a value once printed last. */
export type Repeats = Map<string, string>

/** Widths and places of a table's columns once their contents are known, and how wide the ends of its numbers are. */
export interface Geometry {
  x: number[]
  width: number[]
  tails: number[]
}

/** What of a number stands from its decimal mark on, or after its last digit where it has none. */
function tailOf(text: string, mark: string): string {
  const at = text.lastIndexOf(mark)
  if (at >= 0 && /\d/.test(text.slice(at))) return text.slice(at)
  return /\D*$/.exec(text)![0]
}

/** The widest end that a column's numbers can have; 0 where all ends are alike and need no care. */
export function columnTails(table: PreparedTable, language: string): number[] {
  const { decimal } = numberMarks(language)
  return table.columns.map((_, column) => {
    const cells = table.rows.flatMap(row =>
      row.cells.filter(cell => cell.column === column && cell.pattern && cell.style.align === 'right'),
    )
    // a part without digits, a dash for zero, has no end to line up
    const ends = cells.flatMap(cell =>
      cell
        .pattern!.split(';')
        .filter(half => /[#0]/.test(half))
        .map(half => {
          const [, zeros = '', hashes = '', suffix = ''] = /(?:\.(0*)(#*))?([^#0,.]*)$/.exec(half) ?? []
          return {
            loose: hashes.length > 0,
            text: (zeros || hashes ? decimal + '0'.repeat(zeros.length + hashes.length) : '') + suffix.replaceAll("'", ''),
            cell,
          }
        }),
    )
    if (!ends.some(end => end.loose) && new Set(ends.map(end => end.text)).size < 2) return 0
    return Math.max(0, ...ends.map(end => textWidth(end.text, end.cell.style.font, end.cell.style.size)))
  })
}

/** Works out the texts of a row and how they fit. */
export function measureRow(
  place: Place,
  table: PreparedTable,
  row: PreparedRow,
  at: Standing,
  options: { repeats: Repeats; band: boolean },
): MeasuredRow {
  const { padding } = table.theme
  const geometry = geometryOf(place, table, at)
  const count = table.columns.length
  const said = new Map<string, string>()
  const texts = new Array<string>(count).fill('')
  const taken = new Array<boolean>(count).fill(false)
  const prepared = row.cells.map(cell => {
    if (cell.when && !place.values.holds(cell.when, at)) return undefined
    const { style, mark } = styled(place, table, row, cell, at)
    if (cell.mixes) place.remarks.currencies(table, row, cell, at)
    const print = place.values.print(cell.text)
    for (let each = cell.column; each < cell.column + cell.span; each++) taken[each] = true
    if (cell.text.late) return { cell, style, text: '', late: print }
    let text = print(at)
    if (row.row.kind === 'line' && table.columns[cell.column]!.column.once) {
      const before = options.repeats.get(`${table.block.id} ${cell.id}`)
      const key = `${at.covered?.node.from ?? 0} ${text}`
      said.set(`${table.block.id} ${cell.id}`, key)
      if (before === key) text = ''
    }
    if (mark && text) text = `${mark} ${text}`
    texts[cell.column] = text
    return { cell, style, text }
  })
  const cells: MeasuredCell[] = []
  let [height, textLines] = [0, 1]
  const line = row.row.kind === 'line' || row.row.kind === 'extra'
  for (const each of prepared) {
    if (!each) continue
    const { cell, style, text, late } = each as { cell: PreparedCell; style: ResolvedStyle; text: string; late?: PrintText }
    let last = cell.column + cell.span
    // a text runs on over the empty cells after it: a label up to the next figure, a line's text where nothing else follows
    if (text && style.align === 'left' && row.row.kind !== 'titles') {
      let next = last
      while (
        next < count &&
        texts[next] === '' &&
        !(taken[next] && prepared.some(other => other && 'late' in other && other.cell.column === next))
      )
        next++
      if (!line || next === count) last = next
    }
    const x = geometry.x[cell.column]!
    const width = geometry.x[last - 1]! + geometry.width[last - 1]! - x
    const picture = cell.picture && pictureIn(place, table, row, cell, at)
    const beside = picture ? picture.width + 5 : 0
    const inner = width - 2 * padding.x - style.indent - beside
    if (picture) height = Math.max(height, picture.height)
    const fitted: Fitted = late
      ? { lines: [''], style }
      : style.marks && text
        ? withMarks(place, cell, style, inner, at)
        : fit(place, table, row, cell, text, style, inner)
    const step = lineHeight(fitted.style)
    const tall = fitted.style.rotated
      ? Math.max(...fitted.lines.map(one => textWidth(one, fitted.style.font, fitted.style.size))) + 4
      : fitted.lines.length * step
    height = Math.max(height, tall)
    if (!fitted.style.rotated) textLines = Math.max(textLines, fitted.lines.length)
    const tails =
      cell.pattern && style.align === 'right' && geometry.tails[cell.column]
        ? fitted.lines.map(one =>
            Math.max(
              0,
              geometry.tails[cell.column]! -
                textWidth(tailOf(one, numberMarks(place.values.language).decimal), fitted.style.font, fitted.style.size),
            ),
          )
        : undefined
    cells.push({
      ...(picture ? { picture } : {}),
      ...(fitted.runs ? { runs: fitted.runs } : {}),
      id: cell.id,
      column: cell.column,
      x,
      width,
      lines: fitted.lines,
      style: fitted.style,
      ...(late ? { late } : {}),
      ...(tails && tails.some(Boolean) && textWidth(fitted.lines[0]!, fitted.style.font, fitted.style.size) + tails[0]! <= inner
        ? { tails }
        : {}),
    })
  }
  if (!height)
    height = lineHeight(
      resolveStyle(
        table.theme,
        table.theme.rows[row.row.kind === 'forward' || row.row.kind === 'brought' ? 'carried' : row.row.kind],
        row.row.style,
      ),
    )
  let { fill } = row
  if (options.band && table.theme.band && !fill && line) fill = table.theme.band
  for (const each of table.looks)
    if (!each.columns.size && each.style.fill && each.kinds.has(row.row.kind) && place.values.holds(each.when, at)) fill = each.style.fill
  return { row, at, cells, height: height + 2 * padding.y, textLines, said, ...(fill ? { fill } : {}) }
}

/** The picture of a cell, as wide as its height makes it. */
function pictureIn(place: Place, table: PreparedTable, row: PreparedRow, cell: PreparedCell, at: Standing): MeasuredCell['picture'] {
  const source = place.values.evaluate(cell.picture!)(at)
  if (typeof source !== 'string' || !source) return undefined
  try {
    const found = readPicture(source)
    const height = row.row.cells[cell.id]!.pictureHeight ?? 24
    return { found, height, width: (found.width * height) / found.height }
  } catch (error) {
    if (!(error instanceof PictureError)) throw error
    place.remarks.picture(table.block.id, cell.id, error.message)
    return undefined
  }
}

interface Fitted {
  lines: string[]
  style: ResolvedStyle
  runs?: ReturnType<typeof wrapRuns>
}

/** A text with marks wraps in stretches of one look; each line is as high as the largest letters of the text. */
function withMarks(place: Place, cell: PreparedCell, style: ResolvedStyle, width: number, at: Standing): Fitted {
  const runs = place.values.runs(cell.text, at).flatMap(line => wrapRuns(line, style, width))
  const size = Math.max(style.size, ...runs.flat().map(each => each.style.size))
  return {
    lines: runs.map(line => line.map(each => each.run.text).join('')),
    style: size === style.size ? style : { ...style, size },
    runs,
  }
}

/** Wraps, cuts or shrinks a text into its cell, and remarks what does not fit. */
function fit(
  place: Place,
  table: PreparedTable,
  row: PreparedRow,
  cell: PreparedCell,
  text: string,
  style: ResolvedStyle,
  width: number,
): { lines: string[]; style: ResolvedStyle } {
  const kind: RowKind = row.row.kind
  if (style.rotated) return { lines: text.split('\n'), style }
  if (style.overflow === 'shrink') {
    const size = shrunkSize(text, style.font, style.size, width)
    return { lines: text.split('\n'), style: size === style.size ? style : { ...style, size } }
  }
  if (style.overflow === 'cut') {
    const lines = text.split('\n').map(one => cutText(one, style.font, style.size, width))
    if (lines.join('\n') !== text)
      place.remarks.tooNarrow({
        kind: 'cut',
        table,
        row: row.row.id,
        cell: cell.id,
        part: kind,
        longest: textWidth(text, style.font, style.size),
        columnWidth: widthFor(table, cell, text, style),
      })
    return { lines, style }
  }
  const lines = wrapText(text, style.font, style.size, Math.max(width, 4))
  // a number on two lines cannot be read; a word is broken only where it is longer than the line
  const broken =
    lines.length > 1 &&
    (cell.pattern
      ? lines.length > text.split('\n').length
      : text.split(/\s+/).some(word => textWidth(word, style.font, style.size) > width))
  if (broken && kind !== 'titles')
    place.remarks.tooNarrow({
      kind: 'narrow',
      table,
      row: row.row.id,
      cell: cell.id,
      part: kind,
      longest: textWidth(text, style.font, style.size),
      columnWidth: widthFor(table, cell, cell.pattern ? text : text.split(/\s+/).sort((a, b) => b.length - a.length)[0]!, style),
    })
  // a number that is broken in two reads as two numbers: it is written smaller, as long as it can be read
  if (broken && cell.pattern) {
    const size = shrunkSize(text, style.font, style.size, width)
    if (size >= style.size * 0.6) return { lines: text.split('\n'), style: { ...style, size } }
  }
  return { lines, style }
}

const widthFor = (table: PreparedTable, cell: PreparedCell, text: string, style: ResolvedStyle) =>
  cell.span > 1 ? 0 : Math.ceil(textWidth(text, style.font, style.size) + 2 * table.theme.padding.x + style.indent + 0.5)

/**
 * The lines of text of a row from `done` on that fit into a height, all that are left where they leave `reserve` free, and at least one.
 */
export function splitRow(row: MeasuredRow, done: number, room: number, reserve: number): { row: MeasuredRow; count: number } {
  const step = Math.max(...row.cells.map(cell => lineHeight(cell.style)))
  const edges = row.height - Math.max(...row.cells.map(cell => cell.lines.length * lineHeight(cell.style)))
  const left = row.textLines - done
  const fits = (keep: number) => Math.max(1, Math.floor((room - keep - edges) / step))
  const count = left <= fits(reserve) ? left : Math.min(left > 1 ? left - 1 : 1, fits(0))
  return {
    count,
    row: {
      ...row,
      height: count * step + edges,
      cells: row.cells.map(cell => ({
        ...cell,
        lines: cell.lines.slice(done, done + count),
        ...(cell.runs ? { runs: cell.runs.slice(done, done + count) } : {}),
      })),
    },
  }
}

const geometries = new WeakMap<Place['paper'], Map<PreparedTable, Geometry>>()
/** Columns are measured once for all pages of a run. */
function geometriesOf({ paper }: Place): Map<PreparedTable, Geometry> {
  let known = geometries.get(paper)
  if (!known) geometries.set(paper, (known = new Map()))
  return known
}

/** Places and widths of a table's columns; those that fit their values are measured on the first rows that come. */
export function geometryOf(place: Place, table: PreparedTable, at: Standing): Geometry {
  const known = geometriesOf(place)
  let found = known.get(table)
  if (found) return found
  const own = table.columns
  found = { x: own.map(column => column.x), width: own.map(column => column.width), tails: columnTails(table, place.layout.language) }
  known.set(table, found)
  if (!own.some(({ column }) => column.fit)) return found
  const wide: Geometry = { ...found, width: own.map(({ column }, index) => (column.fit ? 4000 : found!.width[index]!)) }
  known.set(table, wide)
  const remarks = place.remarks.keep()
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
      for (const cell of measureRow(place, table, row, each, { repeats: new Map(), band: false }).cells) {
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
  place.remarks.restore(remarks)
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
  known.set(table, found)
  return found
}
