import type { RowKind } from '../definition/blocks/table'
import type { TextStyle } from '../definition/style'
import type { Standing } from '../formula/standing'
import { numberMarks } from '../value/numberFormat'
import type { Composer } from './compose'
import { baseline, textWidth } from './fonts'
import type { BoxPart } from './page'
import type { PreparedCell, PreparedRow, PreparedTable } from './prepare'
import { readPicture } from './pictures'
import { wrapRuns } from './rich'
import { borders, lineHeight, look, type ResolvedStyle, resolveStyle } from './style'
import { PictureError } from './svgShapes'
import type { PrintText } from './text'
import { cutText, shrunkSize, wrapText } from './wrap'

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

/** The style of a cell with the looks that hold for its row, and their sign. */
export function styled(
  composer: Composer,
  table: PreparedTable,
  row: PreparedRow,
  cell: PreparedCell,
  at: Standing,
): { style: ResolvedStyle; mark: string } {
  let mark = ''
  const put: TextStyle[] = []
  for (const each of table.looks) {
    if (!each.kinds.has(row.row.kind) || (each.columns.size && !each.columns.has(cell.id)) || !composer.holds(each.when, at)) continue
    put.push(each.style)
    if (each.mark && (each.columns.size || cell.column === 0)) mark = each.mark
  }
  if (!put.length) return { style: cell.style, mark }
  return {
    style: composer.lookedStyle(cell, put, () =>
      resolveStyle(
        table.theme,
        table.columns[cell.column]!.column.style,
        table.theme.rows[row.row.kind === 'forward' || row.row.kind === 'brought' ? 'carried' : row.row.kind],
        row.row.style,
        row.row.cells[cell.id]?.style,
        ...put,
      ),
    ),
    mark,
  }
}

/** Works out the texts of a row and how they fit. */
export function measureRow(
  composer: Composer,
  table: PreparedTable,
  row: PreparedRow,
  at: Standing,
  options: { repeats: Repeats; band: boolean },
): MeasuredRow {
  const { padding } = table.theme
  const geometry = composer.geometry(table, at)
  const count = table.columns.length
  const said = new Map<string, string>()
  const texts = new Array<string>(count).fill('')
  const taken = new Array<boolean>(count).fill(false)
  const prepared = row.cells.map(cell => {
    if (cell.when && !composer.holds(cell.when, at)) return undefined
    const { style, mark } = styled(composer, table, row, cell, at)
    if (cell.mixes) composer.remarks.currencies(table, row, cell, at)
    const print = composer.print(cell.text)
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
    const picture = cell.picture && pictureIn(composer, table, row, cell, at)
    const beside = picture ? picture.width + 5 : 0
    const inner = width - 2 * padding.x - style.indent - beside
    if (picture) height = Math.max(height, picture.height)
    const fitted: Fitted = late
      ? { lines: [''], style }
      : style.marks && text
        ? withMarks(composer, cell, style, inner, at)
        : fit(composer, table, row, cell, text, style, inner)
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
                textWidth(tailOf(one, numberMarks(composer.language).decimal), fitted.style.font, fitted.style.size),
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
    if (!each.columns.size && each.style.fill && each.kinds.has(row.row.kind) && composer.holds(each.when, at)) fill = each.style.fill
  return { row, at, cells, height: height + 2 * padding.y, textLines, said, ...(fill ? { fill } : {}) }
}

/** The picture of a cell, as wide as its height makes it. */
function pictureIn(composer: Composer, table: PreparedTable, row: PreparedRow, cell: PreparedCell, at: Standing): MeasuredCell['picture'] {
  const source = composer.evaluate(cell.picture!)(at)
  if (typeof source !== 'string' || !source) return undefined
  try {
    const found = readPicture(source)
    const height = row.row.cells[cell.id]!.pictureHeight ?? 24
    return { found, height, width: (found.width * height) / found.height }
  } catch (error) {
    if (!(error instanceof PictureError)) throw error
    composer.remarks.picture(table.block.id, cell.id, error.message)
    return undefined
  }
}

interface Fitted {
  lines: string[]
  style: ResolvedStyle
  runs?: ReturnType<typeof wrapRuns>
}

/** A text with marks wraps in stretches of one look; each line is as high as the largest letters of the text. */
function withMarks(composer: Composer, cell: PreparedCell, style: ResolvedStyle, width: number, at: Standing): Fitted {
  const runs = composer.runs(cell.text, at).flatMap(line => wrapRuns(line, style, width))
  const size = Math.max(style.size, ...runs.flat().map(each => each.style.size))
  return {
    lines: runs.map(line => line.map(each => each.run.text).join('')),
    style: size === style.size ? style : { ...style, size },
    runs,
  }
}

/** Wraps, cuts or shrinks a text into its cell, and remarks what does not fit. */
function fit(
  composer: Composer,
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
      composer.remarks.tooNarrow({
        kind: 'cut',
        block: table.block.id,
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
    composer.remarks.tooNarrow({
      kind: 'narrow',
      block: table.block.id,
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

/** Draws a row at the composer's place and moves on. */
export function drawRow(composer: Composer, table: PreparedTable, measured: MeasuredRow, repeats: Repeats): void {
  const { row, at, height } = measured
  const { padding } = table.theme
  const top = composer.y
  const { id } = table.block
  const part: BoxPart = row.row.kind
  measured.said.forEach((text, key) => repeats.set(key, text))
  composer.box(
    id,
    part,
    undefined,
    table.x,
    top,
    table.width,
    height,
    at,
    row.row.id,
    part === 'titles' || part === 'forward' || part === 'brought' ? undefined : composer.rowKey(at),
  )
  if (measured.fill) composer.fill(table.x, top, table.width, height, measured.fill)
  for (const cell of measured.cells)
    if (cell.style.fill && cell.style.fill !== measured.fill) composer.fill(cell.x, top, cell.width, height, cell.style.fill)
  border(composer, table, row.above, top, true)
  const geometry = composer.geometry(table, at)
  for (const cell of measured.cells) {
    const { style, lines } = cell
    const beside = cell.picture ? cell.picture.width + 5 : 0
    const x = cell.x + padding.x + (style.align === 'right' ? 0 : style.indent) + beside
    const width = cell.width - 2 * padding.x - style.indent - beside
    if (cell.picture) composer.picture(cell.picture.found, cell.x + padding.x, top + padding.y, cell.picture.width, cell.picture.height)
    const step = lineHeight(style)
    const room = height - 2 * padding.y - (style.rotated ? 0 : lines.length * step)
    let y = top + padding.y + (style.vertical === 'bottom' ? room : style.vertical === 'middle' ? room / 2 : 0)
    if (cell.late) composer.writeLate(cell.late, at, x, width, y, style)
    else if (style.rotated) lines.forEach((line, index) => composer.writeUp(line, x + index * step, top + height - padding.y - 2, style))
    else if (cell.runs) {
      for (const line of cell.runs) {
        const all = line.reduce((sum, each) => sum + each.width, 0)
        const start = x + (style.align === 'right' ? width - all : style.align === 'centre' ? (width - all) / 2 : 0)
        for (const each of line) {
          composer.writeLine(
            each.run.text,
            start + each.x,
            each.width,
            y + baseline(style.font, style.size) - baseline(each.style.font, each.style.size),
            { ...each.style, align: 'left' },
          )
          if (each.run.marks.link) composer.link(each.run.marks.link, start + each.x, y, each.width, step)
        }
        y += step
      }
    } else {
      lines.forEach((line, index) => {
        composer.writeLine(line, x, width - (cell.tails?.[index] ?? 0), y, style)
        y += step
      })
    }
  }
  if (composer.options.boxes)
    table.columns.forEach(({ column }, index) =>
      composer.box(id, part, column.id, geometry.x[index]!, top, geometry.width[index]!, height, at, row.row.id),
    )
  border(composer, table, row.below, top + height, false)
  composer.y += height
}

/** A line above or below a row; a double one is two thin lines. */
function border(composer: Composer, table: PreparedTable, kind: string | undefined, y: number, above: boolean): void {
  if (!kind || kind === 'none') return
  const thickness = borders[kind as keyof typeof borders]
  const colour = kind === 'hair' ? look.hairline : table.theme.line
  const top = above ? y : y - thickness
  if (kind === 'double') {
    composer.fill(table.x, top, table.width, 0.7, colour)
    composer.fill(table.x, top + thickness - 0.7, table.width, 0.7, colour)
  } else composer.fill(table.x, top, table.width, thickness, colour)
}

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

/** One row for each look of a table: its mark and what it means, in its own style. */
export function legendRows(table: PreparedTable): PreparedRow[] {
  const first = table.columns[0]
  if (!first) return []
  return (table.block.looks ?? [])
    .filter(each => each.meaning)
    .map((each): PreparedRow => {
      const text = `${each.mark || '■'} ${each.meaning}`
      return {
        row: { id: `legend ${each.id}`, kind: 'end', cells: {} },
        depth: -1,
        cells: [
          {
            column: 0,
            span: table.columns.length,
            id: first.column.id,
            text: { lines: [[{ literal: text }]], formulas: [], late: false },
            style: resolveStyle(table.theme, table.theme.named.small, {
              colour: each.style.colour ?? '#6d655b',
              ...(each.style.fill ? { fill: each.style.fill } : {}),
              bold: !!each.style.bold,
            }),
          },
        ],
      }
    })
}
