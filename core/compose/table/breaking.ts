import type { Flow, Place } from '../place'
import type { Standing } from '../../formula/standing'
import type { Page } from '../page'
import type { PreparedRow, PreparedTable } from '../prepared'
import { drawRow } from './draw'
import { measureRow, splitRow } from './measure'
import type { MeasuredRow, Repeats } from './measured'
import { type Frame, type Piece, pieces, titleRows } from './pieces'
import { Units } from './units'

/**
 * Lays out a table with its groups and the tables in its rows, breaking it over pages: titles and group starts repeat, starts stay with
 * what
 * follows them and ends with what comes before them, and where the table goes on, the carried row stands as the last of the page and,
 * with the
 * same figure, as the first of the next (rules 19 to 21 of the semantics).
 */
export function* composeTable(
  place: Flow,
  table: PreparedTable,
  at: Standing,
  source = pieces(place, table, at, undefined, undefined),
): Generator<Page> {
  place.paper.open()
  const units = new Units(source)
  const repeats: Repeats = new Map()
  const measure = (piece: Piece): MeasuredRow =>
    (piece.measured ??= piece.block ? noRoom(piece) : measureRow(place, piece.table, piece.row, piece.at, { repeats, band: piece.band }))
  const height = (unit: readonly Piece[]) => unit.reduce((sum, piece) => sum + measure(piece).height, 0)
  const rows = (kind: PreparedRow['row']['kind']) => table.rows.filter(row => row.row.kind === kind)
  const put = (piece: Piece, measured = measure(piece)) => {
    for (let frame: Frame | undefined = piece.frame; frame; frame = frame.parent) frame.started = true
    drawRow(place, piece.table, measured, repeats)
  }
  const direct = (own: PreparedTable, row: PreparedRow, standing: Standing) => {
    const measured = measureRow(place, own, row, standing, { repeats, band: false })
    drawRow(place, own, measured, repeats, true)
  }
  const forward = rows('forward')
  const carriedAt = (carry: number, whole: Standing): Standing => ({ ...whole, carriedFrom: 0, carriedTo: carry })
  let carriedHeight = 0
  let outer: Standing | undefined

  const turn = function* (next: Piece): Generator<Page> {
    const whole = outer!
    if (next.carry > 0) for (const row of forward) direct(table, row, carriedAt(next.carry, whole))
    yield* place.paper.newPage()
    standAgain(next, whole, true)
  }
  /** Titles and group starts at the top of a page that the table goes on to, and what is carried there. */
  const standAgain = (next: Piece, whole: Standing, carries: boolean): void => {
    repeats.clear()
    const frames: Frame[] = []
    for (let frame: Frame | undefined = next.frame; frame; frame = frame.parent) if (frame.started) frames.unshift(frame)
    const again = frames.flatMap((frame): Repeated[] => {
      if (frame.node) {
        const group = frame.table.groups[frame.node.depth]!
        return group.group.repeatStart
          ? startRows(frame.table, frame.node.depth)
              .filter(row => !row.when || place.values.holds(row.when, frame.at))
              .map(row => ({ table: frame.table, row, at: { ...frame.at, continued: true } }))
          : []
      }
      return [
        ...(frame.table.block.repeatTitles ? titleRows(frame.table).map(row => ({ table: frame.table, row, at: frame.at })) : []),
        ...(frame.table === table && carries && next.carry > 0
          ? rows('brought').map(row => ({ table, row, at: carriedAt(next.carry, whole), carried: true }))
          : []),
      ]
    })
    for (const { table: own, row, at: standing } of fitting(place, table, again)) direct(own, row, standing)
  }

  let first = true
  for (let unit = units.next(); unit; unit = units.next()) {
    outer ??= tableFrame(unit[0]!.frame).at
    if (first)
      carriedHeight = forward.reduce(
        (sum, row) => sum + measureRow(place, table, row, carriedAt(0, outer!), { repeats: new Map(), band: false }).height,
        0,
      )
    const head = unit[0]!
    if (head.block) {
      // what it goes on to begins as the table's own pages do
      place.paper.nest({ x: 0, leaves: () => {}, enters: () => standAgain(head, outer!, false) })
      yield* place.blocks([head.block], head.at)
      place.paper.unnest()
      continue
    }
    const after = units.done() ? 0 : carriedHeight
    const room = () => place.paper.bodyBottom - place.paper.y
    let broke = false
    const again = function* (): Generator<Page> {
      if (first) yield* place.paper.newPage()
      else yield* turn(head)
      broke = true
      // a value that was left out as a repetition stands again at the top of a page
      if (unit!.some(piece => piece.table.columns.some(column => column.column.once))) unit!.forEach(piece => delete piece.measured)
    }
    if (head.newPage && !place.paper.fresh) yield* again()
    const kept = first ? undefined : keptFrame(unit)
    if (kept && !broke) {
      const whole = height(unit) + units.ahead(kept, each => height(each), place.paper.bodyHeight - height(unit))
      if (whole > room() && whole <= place.paper.bodyHeight) yield* again()
    }
    if (!broke && height(unit) + after > room() && !place.paper.fresh) yield* again()
    if (height(unit) + after <= room()) for (const piece of unit) put(piece)
    else yield* overflow(place, unit, after, put, measure, turn)
    first = false
  }
}

/** A block in a row takes its room when it is composed. */
const noRoom = ({ row, at }: Piece): MeasuredRow => ({ row, at, cells: [], height: 0, textLines: 1, fill: undefined, said: undefined })

/** A row that stands again at the top of a page. */
interface Repeated {
  table: PreparedTable
  row: PreparedRow
  at: Standing
  /** a figure that is brought forward, which stands whatever else does not */
  carried?: boolean
}

/** What stands again on a page takes half of it at most: rows that are taller stand once, which is noticed. */
function fitting(place: Place, table: PreparedTable, rows: Repeated[]): Repeated[] {
  const height = ({ table: own, row, at }: Repeated) => measureRow(place, own, row, at, { repeats: new Map(), band: false }).height
  const most = place.paper.bodyHeight / 2
  if (rows.reduce((sum, row) => sum + height(row), 0) <= most) return rows
  place.remarks.count(`tall ${table.block.id}`, {
    kind: 'tall',
    block: table.block.id,
    part: 'block',
    sentence: 'Titles and group starts that would take more than half of each page stand on the first page only; make them shorter.',
    remedies: [],
  })
  return rows.filter(row => row.carried)
}

/** A unit taller than a page: row by row, and a row taller than a page between its lines of text. */
function* overflow(
  place: Place,
  unit: readonly Piece[],
  after: number,
  put: (piece: Piece, measured?: MeasuredRow) => void,
  measure: (piece: Piece) => MeasuredRow,
  turn: (next: Piece) => Generator<Page>,
): Generator<Page> {
  for (let index = 0; index < unit.length; index++) {
    const piece = unit[index]!
    // what is glued after the row stays with its last lines, as far as it is no page by itself
    const rest = unit.slice(index + 1).reduce((sum, each) => sum + measure(each).height, after)
    const reserve = piece.withNext ? 0 : rest < place.paper.bodyHeight / 2 ? rest : 0
    const row = measure(piece)
    if (place.paper.y + row.height + reserve <= place.paper.bodyBottom) {
      put(piece, row)
      continue
    }
    if (row.height + reserve <= place.paper.bodyHeight && !place.paper.fresh && !piece.withNext) {
      const before = unit[index - 1]
      if (!before?.withNext) {
        yield* turn(piece)
        if (place.paper.y + row.height + reserve <= place.paper.bodyBottom) {
          put(piece, row)
          continue
        }
      }
    }
    let done = 0
    for (;;) {
      const part = splitRow(row, done, place.paper.bodyBottom - place.paper.y, reserve)
      put(piece, part.row)
      done += part.count
      if (done >= row.textLines) break
      yield* place.paper.newPage()
      const own = piece.frame.table
      const titles = own.block.repeatTitles ? titleRows(own).map(row => ({ table: own, row, at: tableFrame(piece.frame).at })) : []
      for (const { row: title, at } of fitting(place, own, titles))
        drawRow(place, own, measureRow(place, own, title, at, { repeats: new Map(), band: false }), new Map(), true)
    }
  }
}
const startRows = (table: PreparedTable, depth: number) => table.rows.filter(row => row.row.kind === 'groupStart' && row.depth === depth)

function tableFrame(frame: Frame): Frame {
  let at = frame
  while (at.parent) at = at.parent
  return at
}

/** The outermost group that starts with this unit and is to be kept together. */
function keptFrame(unit: readonly Piece[]): Frame | undefined {
  let found: Frame | undefined
  for (let frame: Frame | undefined = unit.at(-1)!.frame; frame; frame = frame.parent) if (frame.keep && !frame.started) found = frame
  return found
}
