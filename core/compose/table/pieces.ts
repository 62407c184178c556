import type { Place } from '../place'
import type { PreparedBlock, PreparedRow, PreparedTable } from '../prepared'
import type { GroupNode, Standing } from '../../formula/standing'
import { legendRows } from './legend'
import { standingRows } from './standingRows'
import type { MeasuredRow } from './measured'

/** A row to be printed, with what stands around it. */
export interface Piece {
  table: PreparedTable
  row: PreparedRow
  at: Standing
  frame: Frame
  /** it stays with the piece after it (a start, titles), or with that before it (an end, what stands under a line) */
  withNext: boolean
  withPrevious: boolean
  /** lines of the outer table that come before it */
  carry: number
  band: boolean
  /** instead of the row: a block that stands under a line */
  block?: PreparedBlock
  /** a new page is wanted before it */
  newPage?: boolean
  measured?: MeasuredRow
}

/** What a piece stands in: a table or one of its groups. Its rows stand again on each page it goes on to. */
export interface Frame {
  parent?: Frame | undefined
  table: PreparedTable
  at: Standing
  node?: GroupNode
  started: boolean
  keep?: boolean
}

export const titleRows = (table: PreparedTable) => table.rows.filter(row => row.row.kind === 'titles')

/** The rows of a table in printed order, those of tables inside its rows among them, before they are broken over pages. */
export function* pieces(
  place: Place,
  table: PreparedTable,
  at: Standing,
  parent: Frame | undefined,
  carried: number | undefined,
): Generator<Piece> {
  const { rows, root, standing } = standingRows(place, table, at)
  const { level } = table
  const outer = at
  const whole = standing(0, rows.length, root)
  const frame: Frame = { parent, table, at: whole, started: false }
  let lead = parent !== undefined
  const made = (row: PreparedRow, own: Standing, where: Frame, carry: number, glue?: 'next' | 'previous', band = false): Piece => {
    // the first row of a table in a row stays with that row
    const piece: Piece = {
      table,
      row,
      at: own,
      frame: where,
      carry: carried ?? carry,
      withNext: glue === 'next',
      withPrevious: glue === 'previous' || lead,
      band,
    }
    lead = false
    return piece
  }
  const shown = (row: PreparedRow, own: Standing) => !row.when || place.values.holds(row.when, own)
  const kinds = new Map<string, PreparedRow[]>()
  for (const row of table.rows) {
    const key = row.row.group === undefined ? row.row.kind : `${row.row.kind} ${row.depth}`
    kinds.set(key, [...(kinds.get(key) ?? []), row])
  }
  const of = (key: string) => kinds.get(key) ?? []
  const [lines, extras] = [of('line'), of('extra')]
  let band = false
  let begun = false

  const leaf = function* (node: GroupNode, where: Frame): Generator<Piece> {
    for (let at = node.from; at < node.to; at++) {
      const own: Standing = { level, from: rows[at]!, to: rows[at]! + 1, covered: { rows, from: at, to: at + 1, node, line: true }, outer }
      const line = lines.find(row => shown(row, own))
      if (!line) {
        if (lines.length) place.remarks.hiddenLine(table, own)
        continue
      }
      yield made(line, own, where, at, undefined, band)
      begun = true
      for (const extra of extras) {
        if (!shown(extra, own)) continue
        if (Object.keys(extra.row.cells).length) yield made(extra, own, where, at + 1, 'previous', band)
        if (extra.report) yield { ...made(extra, own, where, at + 1), block: extra.report }
        if (extra.nested) yield* pieces(place, extra.nested, own, where, carried ?? at + 1)
      }
      band = !band
    }
  }
  const inside = function* (node: GroupNode, where: Frame): Generator<Piece> {
    if (node.depth + 1 >= table.groups.length) {
      yield* leaf(node, where)
      return
    }
    for (const child of node.children) {
      const { group } = table.groups[child.depth]!
      const own = standing(child.from, child.to, child)
      const inner: Frame = { parent: where, table, at: own, node: child, started: false, ...(group.keepTogether ? { keep: true } : {}) }
      let newPage = !!group.newPage && begun
      band = false
      for (const row of of(`groupStart ${child.depth}`)) {
        if (!shown(row, own)) continue
        yield {
          ...made(
            row,
            own,
            inner,
            child.from,
            lines.length || node.depth + 2 < table.groups.length || of(`groupEnd ${child.depth}`).length ? 'next' : undefined,
          ),
          ...(newPage ? { newPage } : {}),
        }
        newPage = false
        begun = true
      }
      for (const piece of inside(child, inner)) {
        if (newPage) piece.newPage = true
        yield piece
        newPage = false
      }
      // without a start or lines before it, a group's end stands by itself
      const alone = !lines.length && !of(`groupStart ${child.depth}`).length && child.depth === table.groups.length - 1
      for (const [index, row] of of(`groupEnd ${child.depth}`).entries()) {
        if (!shown(row, own)) continue
        yield { ...made(row, own, inner, child.to, alone && index === 0 ? undefined : 'previous'), ...(newPage ? { newPage } : {}) }
        newPage = false
        begun = true
      }
    }
  }
  // a table in a row that has no records leaves no gap
  if (parent && !rows.length) return
  for (const row of titleRows(table)) yield made(row, whole, frame, 0, 'next')
  yield* inside(root, frame)
  for (const row of of('end')) if (shown(row, whole)) yield made(row, whole, frame, rows.length, 'previous')
  if (table.block.legend && !parent) for (const row of legendRows(table)) yield made(row, whole, frame, rows.length, 'previous')
}
