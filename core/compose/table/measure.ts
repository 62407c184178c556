import { columnWidths } from '../columnWidths'
import type { Place } from '../place'
import type { Geometry, MeasuredCell, MeasuredRow, Repeats } from './measured'
import { lineHeight, type ResolvedStyle, resolveStyle, rowRole } from '../style'
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

/** What is the same for all rows that are printed by one row of a definition. */
interface RowPlan {
  line: boolean
  titles: boolean
  /** the columns that print a repeated value once, by their cells */
  once: (string | undefined)[]
  anyOnce: boolean
  /** the height of a row in which nothing stands */
  empty: number
}
const plans = new WeakMap<PreparedRow, RowPlan>()

function planOf(table: PreparedTable, row: PreparedRow): RowPlan {
  let plan = plans.get(row)
  if (plan) return plan
  const { kind } = row.row
  const once = row.cells.map(cell =>
    kind === 'line' && table.columns[cell.column]!.column.once ? `${table.block.id} ${cell.id}` : undefined,
  )
  plan = {
    line: kind === 'line' || kind === 'extra',
    titles: kind === 'titles',
    once,
    anyOnce: once.some(Boolean),
    empty: lineHeight(resolveStyle(table.theme, table.theme.rows[rowRole(kind)], row.row.style)),
  }
  plans.set(row, plan)
  return plan
}

/** Works out the texts of a row and how they fit. This is done for every row of a run: nothing is made here that is not kept. */
export function measureRow(
  place: Place,
  table: PreparedTable,
  row: PreparedRow,
  at: Standing,
  options: { repeats: Repeats; band: boolean },
): MeasuredRow {
  const { values } = place
  const { padding } = table.theme
  const plan = planOf(table, row)
  const geometry = geometryOf(place, table, at)
  const columns = table.columns.length
  const count = row.cells.length
  const plain = !table.looks.length
  let said: Map<string, string> | undefined
  // texts by column: of those that no cell stands in "", of late ones nothing that another could run over
  const texts = new Array<string>(columns).fill('')
  const own = new Array<string | undefined>(count)
  const looked = plain ? undefined : new Array<ResolvedStyle>(count)
  for (let index = 0; index < count; index++) {
    const cell = row.cells[index]!
    if (cell.when && !values.holds(cell.when, at)) continue
    let mark = ''
    if (looked) {
      const found = styled(place, table, row, cell, at)
      looked[index] = found.style
      mark = found.mark
    }
    if (cell.mixes) place.remarks.currencies(table, row, cell, at)
    if (cell.text.late) {
      own[index] = ''
      texts[cell.column] = late
      continue
    }
    let text = values.print(cell.text)(at)
    const key = plan.anyOnce ? plan.once[index] : undefined
    if (key !== undefined) {
      const saying = cell.onceFor ?? `${at.covered?.node.from ?? 0} ${text}`
      ;(said ??= new Map()).set(key, saying)
      if (options.repeats.get(key) === saying) text = ''
    }
    if (mark && text) text = `${mark} ${text}`
    texts[cell.column] = text
    own[index] = text
  }
  const cells: MeasuredCell[] = []
  let height = 0
  let textLines = 1
  for (let index = 0; index < count; index++) {
    const text = own[index]
    if (text === undefined) continue
    const cell = row.cells[index]!
    const style = looked ? looked[index]! : cell.style
    let last = cell.column + cell.span
    // a text runs on over the empty cells after it: a label up to the next figure, a line's text where nothing else follows
    if (text && style.align === 'left' && !plan.titles) {
      let next = last
      while (next < columns && texts[next] === '') next++
      if (!plan.line || next === columns) last = next
    }
    const x = geometry.x[cell.column]!
    const width = geometry.x[last - 1]! + geometry.width[last - 1]! - x
    const picture = cell.picture && pictureIn(place, table, row, cell, at)
    const inner = width - 2 * padding.x - style.indent - (picture ? picture.width + 5 : 0)
    if (picture && picture.height > height) height = picture.height
    const measured: MeasuredCell = {
      id: cell.id,
      column: cell.column,
      x,
      width,
      lines: noText,
      style,
      late: undefined,
      tails: undefined,
      runs: undefined,
      picture,
    }
    if (cell.text.late) measured.late = values.print(cell.text)
    else if (style.marks && text) withMarks(place, cell, measured, inner, at)
    else fit(place, table, row, cell, text, measured, inner)
    const { style: fitted, lines } = measured
    if (fitted.rotated) height = Math.max(height, Math.max(...lines.map(one => textWidth(one, fitted.font, fitted.size))) + 4)
    else {
      const tall = lines.length * lineHeight(fitted)
      if (tall > height) height = tall
      if (lines.length > textLines) textLines = lines.length
    }
    if (cell.pattern && style.align === 'right' && geometry.tails[cell.column])
      withTails(place, measured, geometry.tails[cell.column]!, inner)
    cells.push(measured)
  }
  if (!height) height = plan.empty
  let { fill } = row
  if (options.band && table.theme.band && !fill && plan.line) fill = table.theme.band
  for (const each of table.looks)
    if (!each.columns.size && each.style.fill && each.kinds.has(row.row.kind) && values.holds(each.when, at)) fill = each.style.fill
  return { row, at, cells, height: height + 2 * padding.y, textLines, fill, said }
}

/** Stands in for a text that is known later: nothing runs over it. */
const late = '\u0000'
const noText = ['']

/** The ends of numbers are kept free so that their decimal marks stand under one another, where there is room for it. */
function withTails(place: Place, measured: MeasuredCell, widest: number, inner: number): void {
  const { font, size } = measured.style
  const { decimal } = numberMarks(place.values.language)
  const tails = measured.lines.map(one => Math.max(0, widest - textWidth(tailOf(one, decimal), font, size)))
  if (tails.some(Boolean) && textWidth(measured.lines[0]!, font, size) + tails[0]! <= inner) measured.tails = tails
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

/** A text with marks wraps in stretches of one look; each line is as high as the largest letters of the text. */
function withMarks(place: Place, cell: PreparedCell, measured: MeasuredCell, width: number, at: Standing): void {
  const { style } = measured
  const runs = place.values.runs(cell.text, at).flatMap(line => wrapRuns(line, style, width))
  const size = Math.max(style.size, ...runs.flat().map(each => each.style.size))
  measured.lines = runs.map(line => line.map(each => each.run.text).join(''))
  if (size !== style.size) measured.style = { ...style, size }
  measured.runs = runs
}

/** Wraps, cuts or shrinks a text into its cell, and remarks what does not fit. */
function fit(
  place: Place,
  table: PreparedTable,
  row: PreparedRow,
  cell: PreparedCell,
  text: string,
  measured: MeasuredCell,
  width: number,
): void {
  const { style } = measured
  const { font, size } = style
  const kind: RowKind = row.row.kind
  if (text === '') return
  if (style.rotated) {
    measured.lines = text.split('\n')
    return
  }
  // most texts fit on one line
  const single = !text.includes('\n')
  const long = textWidth(text, font, size)
  if (single && long <= width) {
    measured.lines = [text]
    return
  }
  if (style.overflow === 'shrink') {
    const smaller = shrunkSize(text, font, size, width)
    measured.lines = text.split('\n')
    if (smaller !== size) measured.style = { ...style, size: smaller }
    return
  }
  const remark = (what: 'cut' | 'narrow', columnWidth: number) =>
    place.remarks.tooNarrow({ kind: what, table, row: row.row.id, cell: cell.id, part: kind, longest: long, columnWidth })
  if (style.overflow === 'cut') {
    measured.lines = text.split('\n').map(one => cutText(one, font, size, width))
    if (measured.lines.join('\n') !== text) remark('cut', widthFor(table, cell, text, style))
    return
  }
  const lines = wrapText(text, font, size, Math.max(width, 4))
  measured.lines = lines
  // a number on two lines cannot be read; a word is broken only where it is longer than the line
  const broken =
    lines.length > 1 &&
    (cell.pattern ? lines.length > text.split('\n').length : text.split(/\s+/).some(word => textWidth(word, font, size) > width))
  if (!broken) return
  const longest = cell.pattern ? text : text.split(/\s+/).sort((a, b) => b.length - a.length)[0]!
  if (kind !== 'titles') remark('narrow', widthFor(table, cell, longest, style))
  if (!cell.pattern) return
  // a number that is broken in two reads as two numbers: it is written smaller, as long as it can be read
  const smaller = shrunkSize(text, font, size, width)
  if (smaller < size * 0.6) return
  measured.lines = text.split('\n')
  measured.style = { ...style, size: smaller }
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
      cells: row.cells.map(cell => ({ ...cell, lines: cell.lines.slice(done, done + count), runs: cell.runs?.slice(done, done + count) })),
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
