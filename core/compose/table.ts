import type { GroupNode, Standing } from '../formula/standing'
import type { Composer } from './compose'
import type { Page } from './page'
import type { PreparedRow, PreparedTable } from './prepare'
import { drawRow, legendRows, type MeasuredRow, measureRow, type Repeats, splitRow } from './row'

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

/**
 * Lays out a table with its groups and the tables in its rows, breaking it over pages: titles and group starts repeat, starts stay with
 * what
 * follows them and ends with what comes before them, and where the table goes on, the carried row stands as the last of the page and,
 * with the
 * same figure, as the first of the next (rules 19 to 21 of the semantics).
 */
export function* composeTable(
  composer: Composer,
  table: PreparedTable,
  at: Standing,
  source = pieces(composer, table, at, undefined, undefined),
): Generator<Page> {
  composer.open()
  const units = new Units(source)
  const repeats: Repeats = new Map()
  const measure = (piece: Piece): MeasuredRow =>
    (piece.measured ??= measureRow(composer, piece.table, piece.row, piece.at, { repeats, band: piece.band }))
  const height = (unit: readonly Piece[]) => unit.reduce((sum, piece) => sum + measure(piece).height, 0)
  const rows = (kind: PreparedRow['row']['kind']) => table.rows.filter(row => row.row.kind === kind)
  const place = (piece: Piece, measured = measure(piece)) => {
    for (let frame: Frame | undefined = piece.frame; frame; frame = frame.parent) frame.started = true
    drawRow(composer, piece.table, measured, repeats)
  }
  const direct = (own: PreparedTable, row: PreparedRow, standing: Standing) => {
    const measured = measureRow(composer, own, row, standing, { repeats, band: false })
    drawRow(composer, own, measured, repeats)
  }
  const forward = rows('forward')
  const carriedAt = (carry: number, whole: Standing): Standing => ({ ...whole, carriedFrom: 0, carriedTo: carry })
  let carriedHeight = 0
  let outer: Standing | undefined

  const turn = function* (next: Piece): Generator<Page> {
    const whole = outer!
    if (next.carry > 0) for (const row of forward) direct(table, row, carriedAt(next.carry, whole))
    yield* composer.newPage()
    repeats.clear()
    const frames: Frame[] = []
    for (let frame: Frame | undefined = next.frame; frame; frame = frame.parent) if (frame.started) frames.unshift(frame)
    for (const frame of frames) {
      if (frame.node) {
        const group = frame.table.groups[frame.node.depth]!
        if (group.group.repeatStart)
          for (const row of startRows(frame.table, frame.node.depth))
            if (!row.when || composer.holds(row.when, frame.at)) direct(frame.table, row, { ...frame.at, continued: true })
      } else {
        if (frame.table.block.repeatTitles) for (const row of titleRows(frame.table)) direct(frame.table, row, frame.at)
        if (frame.table === table && next.carry > 0) for (const row of rows('brought')) direct(table, row, carriedAt(next.carry, whole))
      }
    }
  }

  let first = true
  for (let unit = units.next(); unit; unit = units.next()) {
    outer ??= tableFrame(unit[0]!.frame).at
    if (first)
      carriedHeight = forward.reduce(
        (sum, row) => sum + measureRow(composer, table, row, carriedAt(0, outer!), { repeats: new Map(), band: false }).height,
        0,
      )
    const head = unit[0]!
    const after = units.done() ? 0 : carriedHeight
    const room = () => composer.bodyBottom - composer.y
    let broke = false
    const again = function* (): Generator<Page> {
      if (first) yield* composer.newPage()
      else yield* turn(head)
      broke = true
      // a value that was left out as a repetition stands again at the top of a page
      if (unit!.some(piece => piece.table.columns.some(column => column.column.once))) unit!.forEach(piece => delete piece.measured)
    }
    if (head.newPage && composer.y > composer.bodyTop) yield* again()
    const kept = first ? undefined : keptFrame(unit)
    if (kept && !broke) {
      const whole = height(unit) + units.ahead(kept, each => height(each), composer.bodyBottom - composer.bodyTop - height(unit))
      if (whole > room() && whole <= composer.bodyBottom - composer.bodyTop) yield* again()
    }
    if (!broke && height(unit) + after > room() && composer.y > composer.bodyTop) yield* again()
    if (height(unit) + after <= room()) for (const piece of unit) place(piece)
    else yield* overflow(composer, unit, after, place, measure, turn)
    first = false
  }
}

/** A unit taller than a page: row by row, and a row taller than a page between its lines of text. */
function* overflow(
  composer: Composer,
  unit: readonly Piece[],
  after: number,
  place: (piece: Piece, measured?: MeasuredRow) => void,
  measure: (piece: Piece) => MeasuredRow,
  turn: (next: Piece) => Generator<Page>,
): Generator<Page> {
  for (let index = 0; index < unit.length; index++) {
    const piece = unit[index]!
    // what is glued after the row stays with its last lines, as far as it is no page by itself
    const rest = unit.slice(index + 1).reduce((sum, each) => sum + measure(each).height, after)
    const reserve = piece.withNext ? 0 : rest < (composer.bodyBottom - composer.bodyTop) / 2 ? rest : 0
    const row = measure(piece)
    if (composer.y + row.height + reserve <= composer.bodyBottom) {
      place(piece, row)
      continue
    }
    if (row.height + reserve <= composer.bodyBottom - composer.bodyTop && composer.y > composer.bodyTop && !piece.withNext) {
      const before = unit[index - 1]
      if (!before?.withNext) {
        yield* turn(piece)
        if (composer.y + row.height + reserve <= composer.bodyBottom) {
          place(piece, row)
          continue
        }
      }
    }
    let done = 0
    for (;;) {
      const part = splitRow(row, done, composer.bodyBottom - composer.y, reserve)
      place(piece, part.row)
      done += part.count
      if (done >= row.textLines) break
      yield* composer.newPage()
      for (const title of piece.frame.table.block.repeatTitles ? titleRows(piece.frame.table) : [])
        drawRow(
          composer,
          piece.frame.table,
          measureRow(composer, piece.frame.table, title, tableFrame(piece.frame).at, { repeats: new Map(), band: false }),
          new Map(),
        )
    }
  }
}

const titleRows = (table: PreparedTable) => table.rows.filter(row => row.row.kind === 'titles')
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

/** Pieces that stay together, one after the other, with a look at those that follow. */
class Units {
  private readonly waiting: Piece[][] = []
  private ahead_: Piece | undefined
  private over = false
  constructor(private readonly source: Generator<Piece>) {
    this.ahead_ = this.pull()
  }

  private pull(): Piece | undefined {
    const next = this.source.next()
    if (next.done) {
      this.over = true
      return undefined
    }
    return next.value
  }

  private read(): Piece[] | undefined {
    if (!this.ahead_) return undefined
    const unit = [this.ahead_]
    for (;;) {
      const next = this.over ? undefined : this.pull()
      this.ahead_ = next
      if (!next || !(unit.at(-1)!.withNext || next.withPrevious) || next.newPage) return unit
      unit.push(next)
    }
  }

  next(): Piece[] | undefined {
    return this.waiting.shift() ?? this.read()
  }

  done(): boolean {
    return !this.waiting.length && !this.ahead_
  }

  /** Height of the units after this one that stand in a frame; it stops where it is more than `most`. */
  ahead(frame: Frame, height: (unit: Piece[]) => number, most: number): number {
    let sum = 0
    for (let index = 0; sum <= most; index++) {
      const unit = this.waiting[index] ?? this.read()
      if (!unit) break
      if (this.waiting[index] !== unit) this.waiting.push(unit)
      const inside = (piece: Piece) => {
        for (let at: Frame | undefined = piece.frame; at; at = at.parent) if (at === frame) return true
        return false
      }
      if (!inside(unit[0]!)) break
      sum += height(unit)
    }
    return sum
  }
}

/** The rows of a table in printed order, those of tables inside its rows among them, before they are broken over pages. */
export function* pieces(
  composer: Composer,
  table: PreparedTable,
  at: Standing,
  parent: Frame | undefined,
  carried: number | undefined,
): Generator<Piece> {
  const stretches = [...composer.lineage.covered(at.from, at.to, at.level, table.level)]
  const count = at.from < at.to ? stretches.reduce((sum, [from, to]) => sum + to - from, 0) : 0
  const records = new Int32Array(count)
  let next = 0
  if (count) for (const [from, to] of stretches) for (let row = from; row < to; row++) records[next++] = row
  const { rows, root } = composer.shape(table, records)
  const { level } = table
  const outer = at
  const standing = (from: number, to: number, node: GroupNode): Standing => ({
    level,
    from: rows[from] ?? 0,
    to: from < to ? rows[from]! + 1 : 0,
    covered: { rows, from, to, node },
    outer,
  })
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
  const shown = (row: PreparedRow, own: Standing) => !row.when || composer.holds(row.when, own)
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
        if (lines.length) composer.remarks.hiddenLine(table, own)
        continue
      }
      yield made(line, own, where, at, undefined, band)
      begun = true
      for (const extra of extras) {
        if (!shown(extra, own)) continue
        if (Object.keys(extra.row.cells).length) yield made(extra, own, where, at + 1, 'previous', band)
        if (extra.nested) yield* pieces(composer, extra.nested, own, where, carried ?? at + 1)
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
