import type { ColumnDefinition, RowKind } from '../../definition/blocks/table'
import type { TextStyle } from '../../definition/style'
import { textWidth } from '../fonts'
import { resolveStyle, rowRole } from '../style'
import type { FigureColumn, FigureRow } from './places'
import type { PreparedCrosstab } from './prepare'

/** A title in the corner. */
export interface TitleCell {
  column: number
  span: number
  text: string
}

/** What a crosstab prints, before it has widths. */
export interface Unfitted {
  prepared: PreparedCrosstab
  titleColumns: readonly ColumnDefinition[]
  rows: readonly FigureRow[]
  columns: readonly FigureColumn[]
  rowTitles: (row: FigureRow, at: number) => readonly { column: number; text: string; span: number }[]
  corner: readonly (readonly TitleCell[])[]
  /** the titles over a column, from the top; columns side by side of one key share theirs */
  titled: readonly ((column: FigureColumn) => { text: string; key: string })[]
  text: (row: FigureRow, column: FigureColumn) => string
}

/** Columns that stand on one page, with all widths in points; sizes are multiplied by the factor. */
export interface FittedPart {
  columns: FigureColumn[]
  widths: { titles: number[]; figures: number[] }
  factor: number
  /** rows of titles, from the top, of which those over a single column are written upwards */
  turned: ReadonlySet<number>
}

/** Titles that are longer than this are not turned, in points. */
const mostTurned = 150
/** Sizes go down to this where all of a crosstab is to stand on one page, and to the other before it is cut into parts. */
const leastFactor = 0.6
const softFactor = 0.85
/** The most that titles of rows take of the width, and points of one. */
const mostTitles = 0.5
const mostTitle = 160
const leastFigure = 26

/** All on one page, as small as may be; over pages where that is not enough; at once over pages; or all in one, however wide it is. */
export type Fitting = 'smaller' | 'pages' | 'whole'

/**
 * Columns as wide as their figures and titles; where all do not fit, they go over several pages side by side, or all are written smaller
 * first, down to a limit.
 */
export function fitCrosstab(all: Unfitted, fitting: Fitting): FittedPart[] {
  const { prepared, titleColumns, rows, columns } = all
  const { theme, width, block } = prepared
  const pad = 2 * theme.padding.x + 2
  const sized = (text: string, kind: RowKind, ...own: (TextStyle | undefined)[]) => {
    const { font, size } = resolveStyle(theme, theme.rows[rowRole(kind)], ...own)
    return Math.max(0, ...text.split('\n').map(line => textWidth(line, font, size)))
  }
  const { size: titleSize } = resolveStyle(theme, theme.rows[rowRole('titles')], block.titles)
  const longestWord = (text: string, kind: RowKind) => Math.max(0, ...text.split(/\s+/).map(word => sized(word, kind, block.titles)))
  const titles = titleColumns.map(() => 20)
  for (const cells of all.corner)
    for (const { column, span, text } of cells)
      if (span === 1) titles[column] = Math.max(titles[column]!, sized(text, 'titles', block.titles))
  rows.forEach((row, at) => {
    for (const { column, span, text } of all.rowTitles(row, at))
      if (span === 1) titles[column] = Math.max(titles[column]!, Math.min(mostTitle, sized(text, row.kind)))
  })
  // what stands for several columns of titles widens the last of them
  rows.forEach((row, at) => {
    for (const { column, span, text } of all.rowTitles(row, at)) {
      if (span === 1) continue
      const room = titles.slice(column, column + span).reduce((sum, each) => sum + each + pad, -pad)
      titles[column + span - 1]! += Math.max(0, Math.min(mostTitle, sized(text, row.kind)) - room)
    }
  })
  const bare = columns.map(column => {
    let most = leastFigure
    for (const row of rows) {
      const measure = row.measure ?? column.measure
      const bold = column.place.totalOf !== undefined && row.kind === 'line' ? { bold: true } : undefined
      most = Math.max(most, sized(all.text(row, column), row.kind, bold, measure?.measure.style))
    }
    return most
  })
  /** the titles of a row, each with the columns that it stands over, and its own width */
  const spans = all.titled.map(titled => {
    const found: { text: string; from: number; to: number }[] = []
    for (let from = 0; from < columns.length;) {
      const { text, key } = titled(columns[from]!)
      let to = from + 1
      while (to < columns.length && titled(columns[to]!).key === key) to++
      found.push({ text, from, to })
      from = to
    }
    return found
  })
  // titles over one column are broken between words, or turned; those over several have their width together
  const withTitles = (turned: ReadonlySet<number>): number[] => {
    const own = [...bare]
    spans.forEach((titles, at) => {
      for (const { text, from, to } of titles) {
        const one = turned.has(at) ? titleSize * 1.35 : longestWord(text, 'titles')
        const wanted = to - from > 1 ? Math.min(sized(text, 'titles', block.titles), 120) : one
        const room = own.slice(from, to).reduce((sum, each) => sum + each + pad, -pad)
        for (let column = from; column < to; column++) own[column]! += Math.max(0, wanted - room) / (to - from)
      }
    })
    return own
  }
  const titleWidth = titles.reduce((sum, each) => sum + each, 0)
  const room = (own: readonly number[]) => width - (own.length + titles.length) * pad
  const sum = (list: readonly number[]) => list.reduce((total, each) => total + each, 0)
  const fits = (own: readonly number[]) => room(own) / (titleWidth + sum(own))
  // titles are turned where figures would stand near one another, and all do not fit
  const upright = withTitles(new Set())
  const long = new Set(
    spans.flatMap((titles, at) => {
      const single = titles.filter(({ from, to }) => to - from === 1)
      const wide = single.some(({ text, from }) => longestWord(text, 'titles') > bare[from]! * 1.2)
      return wide && single.every(({ text }) => sized(text, 'titles', block.titles) <= mostTurned) ? [at] : []
    }),
  )
  const narrow = withTitles(long)
  const turned: ReadonlySet<number> = fitting !== 'whole' && fits(upright) < 1 && sum(narrow) < sum(upright) * 0.9 ? long : new Set()
  const figures = turned.size ? narrow : upright
  const part = (from: number, to: number, most = 1): FittedPart => {
    const own = figures.slice(from, to)
    const factor = Math.max(leastFactor, Math.min(most, room(own) / (titleWidth + sum(own))))
    // what room is left makes figures stand wider apart, up to a half more
    const left = Math.max(0, room(own) - (titleWidth + sum(own)) * factor)
    const spread = own.length ? Math.min(left / own.length, sum(own) / own.length / 2) : 0
    const scaled = (list: readonly number[], more = 0) => list.map(each => Math.ceil(each * factor + pad + more))
    return { columns: columns.slice(from, to), widths: { titles: scaled(titles), figures: scaled(own, spread) }, factor, turned }
  }
  const whole = fits(figures)
  const least = fitting === 'smaller' ? leastFactor : softFactor
  if (whole >= least || fitting === 'whole' || columns.length < 2) return [part(0, columns.length)]
  const size = fitting === 'smaller' ? leastFactor : 1
  const kept = Math.min(titleWidth * size, width * mostTitles)
  const parts: FittedPart[] = []
  for (let from = 0; from < columns.length;) {
    let to = from
    let used = kept + titles.length * pad
    while (to < columns.length && (to === from || used + figures[to]! * size + pad <= width)) used += figures[to++]! * size + pad
    // groups of columns stay together where at least one of them fits
    if (to < columns.length) {
      const outermost = all.titled[1] ?? all.titled[0]!
      const key = (at: number) => outermost(columns[at]!).key
      let end = to
      while (end > from && key(end - 1) === key(to)) end--
      if (end > from) to = end
    }
    parts.push(part(from, to, size))
    from = to
  }
  return parts
}
