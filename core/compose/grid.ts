import type { DataRecords } from '../value/records'
import type { Value } from '../value/value'
import type { RowKind } from '../definition/blocks/table'
import type { Typed } from '../formula/typed'
import type { GroupNode, Standing } from '../formula/standing'
import type { Composer } from './compose'
import { bodyWidth, type PreparedBlock, type PreparedCell, type PreparedPanel, type PreparedRow, type PreparedTable } from './prepare'
import { styled } from './row'
import type { ResolvedStyle } from './style'
import { literalPieces } from './literal'
import type { PreparedStatement } from './statement'
import { layTies } from './ties'
import { type Frame, type Piece, pieces } from './table'
import { patternOf, singleValue } from './text'

/** What is written into one place of a sheet. Columns count from 0. */
export interface GridCell {
  column: number
  /** id of the table's column, or of the panel's item */
  id: string
  /** as a page prints it */
  text: string
  /** the value itself, where the cell holds a single number or date and nothing else */
  value?: Value
  /** its Unicode pattern */
  pattern?: string
  /** the formula that the value comes from, in the author's words */
  formula?: string
  style: ResolvedStyle
}

/** One row of a sheet. */
export interface GridRow {
  kind: RowKind | 'panel'
  cells: GridCell[]
  /** how deep it lies in the outline, from 0 */
  depth: number
  /** id of the table it belongs to, and which of its printings: a table inside a repeat is printed once for each record */
  table?: string
  instance?: number
  /** the groups in which it stands, outermost first */
  nodes: readonly GroupNode[]
  /** of a statement: its id, and the rows before or after it whose figures it adds up and takes off */
  id?: string
  adds?: readonly { row: string; by: 1 | -1 }[]
  fill?: string
  above?: string
  below?: string
}

/** What comes along: rows, and marks where a document or an outermost group begins. */
export type GridEvent = { row: GridRow } | { document: string } | { group: string }

/** Left edge and width of a sheet's columns, in points. */
export interface GridColumns {
  x: number[]
  width: number[]
}

/**
 * The columns of a sheet are those of the layout's table or statement that has most (a statement's are known when it is worked out);
 * other tables and panels put their texts into the column under which they stand on the page.
 */
export function gridColumns(
  blocks: readonly PreparedBlock[],
  textWidth: number,
  statement?: (block: PreparedStatement) => PreparedTable,
): GridColumns {
  let most: PreparedTable | undefined
  const visit = (list: readonly PreparedBlock[]): void =>
    list.forEach(block => {
      if (block.kind === 'repeat') visit(block.inner)
      else if (block.kind === 'table' && block.columns.length > (most?.columns.length ?? 0)) most = block
      else if (block.kind === 'statement' && statement && statement(block).columns.length > (most?.columns.length ?? 0))
        most = statement(block)
    })
  visit(blocks)
  if (!most) return { x: [0, textWidth / 2], width: [textWidth / 2, textWidth / 2] }
  const columns = most.columns.map(({ x, width, column }) => ({ x, width: column.fit ? Math.max(width, 64) : width }))
  const before = columns[0]!.x
  return before > 30
    ? { x: [0, ...columns.map(column => column.x)], width: [before, ...columns.map(column => column.width)] }
    : { x: columns.map(column => column.x), width: columns.map(column => column.width) }
}

/** The rows of a layout over some records, as a sheet holds them: page tops once, no page feet, titles once per table. */
export class GridMaker {
  columns: GridColumns
  private instance = 0
  /** `texts` asks for the printed text of values too, which takes its time */
  constructor(
    private readonly composer: Composer,
    private readonly texts = false,
  ) {
    const { layout } = composer
    this.columns = gridColumns(layout.blocks, bodyWidth(layout.page))
  }

  /** Columns of statements are known once there are records. */
  begin(data: DataRecords): void {
    const { composer } = this
    composer.use(data)
    this.columns = gridColumns(composer.layout.blocks, bodyWidth(composer.layout.page), block => composer.statement(block).table)
  }

  /** `top` puts the page top before all: wanted with the first records, and where each document has a sheet of its own. */
  *rows(data: DataRecords, top: 'first' | 'documents' | 'none'): Generator<GridEvent> {
    this.composer.use(data)
    const all: Standing = { level: 0, from: 0, to: data.levels[0]!.count }
    if (top === 'first' && all.to) yield* this.pageTop({ ...all, to: 1 })
    yield* this.blocks(this.composer.layout.blocks, all, top === 'documents')
  }

  private *pageTop(at: Standing): Generator<GridEvent> {
    const { top, firstTop } = this.composer.layout
    const panel = firstTop ?? top
    if (!panel || (panel.showWhen && !this.composer.holds(panel.showWhen, at))) return
    yield* this.panel(panel, at)
    yield this.blank()
  }

  private blank(): GridEvent {
    return { row: { kind: 'panel', cells: [], depth: 0, nodes: [] } }
  }

  private *blocks(list: readonly PreparedBlock[], at: Standing, tops: boolean): Generator<GridEvent> {
    const { composer } = this
    for (const block of list) {
      if (block.showWhen && !composer.holds(block.showWhen, at)) continue
      if (block.kind === 'panel') {
        yield* this.panel(block, at)
        if (block.block.after > 4) yield this.blank()
      } else if (block.kind === 'table' || block.kind === 'statement') {
        yield* block.kind === 'table' ? this.table(block, at, pieces(composer, block, at, undefined, undefined)) : this.statement(block, at)
        if (block.block.after > 4) yield this.blank()
      } else if (block.kind === 'ties') {
        const laid = layTies(block, composer.options.tieOuts, composer.language)
        if (laid.rows.length) yield* this.table(laid.table, at, literalPieces(laid, at))
      } else if (block.kind === 'repeat') {
        for (const [from, to] of composer.lineage.covered(at.from, at.to, at.level, block.level)) {
          for (let row = from; row < to; row++) {
            const own: Standing = { level: block.level, from: row, to: row + 1 }
            const language = composer.language
            if (block.language) composer.speak(String(composer.evaluate(block.language)(own) ?? composer.layout.language))
            if (block.block.restartNumbers || block.block.newPage) {
              const { documentName } = composer.layout
              const name = documentName ? composer.print(documentName)(own) : block.outline ? composer.print(block.outline)(own) : ''
              yield { document: name }
              if (tops) yield* this.pageTop(own)
            }
            yield* this.blocks(block.inner, own, false)
            if (block.language) composer.speak(language)
          }
        }
      }
    }
  }

  /** Texts of a panel that begin at about the same height stand in one row. */
  private *panel(panel: PreparedPanel, at: Standing): Generator<GridEvent> {
    const { composer } = this
    const texts = panel.items
      .flatMap(item => {
        if (item.kind !== 'text' || (item.showWhen && !composer.holds(item.showWhen, at))) return []
        const lines = composer.print(item.text)(at).split('\n')
        return lines.map((line, index) => ({ item, line, single: lines.length === 1, y: item.y + index * item.style.size * 1.3 }))
      })
      .filter(each => each.line !== '')
      .sort((a, b) => a.y - b.y || a.item.x - b.item.x)
    for (let from = 0; from < texts.length;) {
      let to = from
      while (to < texts.length && texts[to]!.y < texts[from]!.y + 5) to++
      const taken = new Set<number>()
      const cells = texts.slice(from, to).map(({ item, line, single }): GridCell => {
        const column = this.placed(item.x, item.width, item.style, taken)
        const only = single ? onlyValue(item.text.lines) : undefined
        return { column, id: item.id, text: line, style: item.style, ...(only ? this.valued(only.typed, only.pattern, at) : {}) }
      })
      yield { row: { kind: 'panel', cells, depth: 0, nodes: [] } }
      from = to
    }
  }

  /** The column under which something stands, or the nearest one that is free: to the left of what is aligned right, else to the right. */
  private placed(x: number, width: number, style: ResolvedStyle, taken: Set<number>): number {
    const { x: edges, width: widths } = this.columns
    const point = style.align === 'right' ? x + width - 2 : x + 2
    let at = edges.findIndex((edge, index) => point < edge + widths[index]!)
    if (at < 0) at = edges.length - 1
    const step = style.align === 'right' ? -1 : 1
    const free = (from: number, by: number) => {
      let place = from
      while (place >= 0 && place < edges.length && taken.has(place)) place += by
      return place >= 0 && place < edges.length ? place : -1
    }
    let found = free(at, step)
    if (found < 0) found = free(at, -step)
    if (found < 0) found = at
    taken.add(found)
    return found
  }

  /** The value of a cell that is one number or date, with the pattern that prints it. */
  private valued(typed: Typed, pattern: string | undefined, at: Standing): Pick<GridCell, 'value' | 'pattern'> {
    if (typed.type !== 'number' && typed.type !== 'date') return {}
    const value = this.composer.evaluate(typed)(at)
    const chosen = patternOf(typed, pattern)
    return { value, ...(chosen ? { pattern: chosen } : {}) }
  }

  private statement(block: PreparedStatement, at: Standing): Generator<GridEvent> {
    const laid = this.composer.statement(block, at)
    return this.table(laid.table, at, literalPieces(laid, at))
  }

  private *table(table: PreparedTable, at: Standing, source: Iterable<Piece>): Generator<GridEvent> {
    const places = new Map<PreparedTable, { places: number[]; instance: number }>()
    let outermost: GroupNode | undefined
    let frame: Frame | undefined
    let { nodes, depth }: ReturnType<typeof around> = { nodes: [], depth: 0 }
    for (const piece of source) {
      const { row } = piece.row
      if (row.kind === 'forward' || row.kind === 'brought') continue
      const own = places.get(piece.table) ?? { places: this.columnsOf(piece.table), instance: ++this.instance }
      places.set(piece.table, own)
      if (piece.frame !== frame) ({ nodes, depth } = around((frame = piece.frame)))
      if (piece.table === table && nodes[0] && nodes[0] !== outermost) {
        outermost = nodes[0]
        yield { group: outermost.label }
      }
      const level =
        (piece.row.deeper ?? 0) +
        (row.kind === 'line' || row.kind === 'extra'
          ? piece.table.groups.length + (row.kind === 'extra' ? 1 : 0)
          : Math.max(0, piece.row.depth))
      yield {
        row: this.tableRow(piece.table, piece.row, piece.at, own.places, {
          depth: depth + level,
          table: piece.table.block.id,
          instance: own.instance,
          nodes,
        }),
      }
    }
  }

  private columnsOf(table: PreparedTable): number[] {
    const taken = new Set<number>()
    return table.columns.map(column =>
      this.placed(column.x, column.width, { align: column.column.style?.align ?? 'left' } as ResolvedStyle, taken),
    )
  }

  private readonly plans = new Map<PreparedCell, CellPlan>()
  /** What is the same for a cell in every row it is printed in. */
  private plan(row: PreparedRow, cell: PreparedCell): CellPlan {
    let found = this.plans.get(cell)
    if (!found) {
      const only = onlyValue(cell.text.lines)
      const single = only?.typed.type === 'number' || only?.typed.type === 'date' ? only.typed : undefined
      found = {
        single,
        pattern: only && patternOf(only.typed, only.pattern),
        formula: (only && singleValue(row.row.cells[cell.id]?.text ?? '')?.formula.trim()) || undefined,
        mixed: only?.typed.type === 'number' && cell.text.formulas[0]?.is === 'total',
      }
      this.plans.set(cell, found)
    }
    return found
  }

  private tableRow(
    table: PreparedTable,
    row: PreparedRow,
    at: Standing,
    places: readonly number[],
    more: { depth: number; table: string; instance: number; nodes: readonly GroupNode[] },
  ): GridRow {
    const { composer } = this
    const cells: GridCell[] = []
    for (const cell of row.cells) {
      if (cell.when && !composer.holds(cell.when, at)) continue
      const { single, pattern, formula, mixed } = this.plan(row, cell)
      let value = single && composer.evaluate(single)(at)
      const text = value === undefined || mixed || this.texts ? composer.print(cell.text)(at) : ''
      if (text === '' && (value ?? null) === null) continue
      const { style, mark } = styled(composer, table, row, cell, at)
      // a total of several currencies has a line for each and is no number
      if (mixed && text.includes('\n')) value = undefined
      const made: GridCell = {
        column: places[cell.column]!,
        id: cell.id,
        text: mark && value === undefined ? `${mark} ${text}` : text,
        style,
      }
      if (value !== undefined) {
        made.value = value
        if (pattern) made.pattern = pattern
      }
      if (formula) made.formula = formula
      cells.push(made)
    }
    const made: GridRow = { kind: row.row.kind, cells, depth: more.depth, table: more.table, instance: more.instance, nodes: more.nodes }
    if (row.adds) made.adds = row.adds
    if (row.adds || table.rows[0] !== row) made.id = row.row.id
    if (row.fill) made.fill = row.fill
    if (row.above && row.above !== 'none') made.above = row.above
    if (row.below && row.below !== 'none') made.below = row.below
    return made
  }
}

/** The groups of its table in which a frame stands, and how deep that table lies in others. */
function around(frame: Frame): { nodes: GroupNode[]; depth: number } {
  const nodes: GroupNode[] = []
  let depth = 0
  for (let at: Frame | undefined = frame; at; at = at.parent) {
    if (at.table !== frame.table) depth = Math.max(depth, at.table.groups.length + 1)
    else if (at.node) nodes.unshift(at.node)
  }
  return { nodes, depth }
}

interface CellPlan {
  /** the number or date that the cell holds and nothing else */
  single: Typed | undefined
  pattern: string | undefined
  formula: string | undefined
  /** a total, whose text says whether it adds up several currencies */
  mixed: boolean
}

/** A text of one value: its formula and pattern. */
function onlyValue(lines: PreparedCell['text']['lines']): { typed: Typed; pattern?: string } | undefined {
  const part = lines[0]?.[0]
  return lines.length === 1 && lines[0]!.length === 1 && part && 'typed' in part ? part : undefined
}
