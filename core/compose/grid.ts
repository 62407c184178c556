import type { GroupNode, Standing } from '../formula/standing'
import { byCurrency } from '../formula/parts'
import type { Typed } from '../formula/typed'
import type { DataRecords } from '../value/records'
import { panelRows } from './blocks/panel'
import { kindOf } from './blocks/registry'
import type { GridCell, GridColumns, GridEvent, GridFlow, GridRow } from './gridRows'
import { bodyWidth } from './paperSize'
import type { Place } from './place'
import type { PreparedBlock, PreparedCell, PreparedLayout, PreparedRow, PreparedTable } from './prepared'
import { Remarks } from './remarks'
import { styled } from './table/looks'
import type { Frame, Piece } from './table/pieces'
import { onlyValue, patternOf } from './text'
import { singleValue } from '../value/textParts'
import type { Values } from './values'

/**
 * The columns of a sheet are those of the layout's table that has most (those of some are known when there are records); other tables and
 * panels put their texts into the column under which they stand on the page.
 */
function gridColumns(layout: PreparedLayout, place?: Place): GridColumns {
  let most: PreparedTable | undefined
  const take = (table: PreparedTable): void => {
    if (table.columns.length > (most?.columns.length ?? 0)) most = table
    for (const row of table.rows) if (row.nested) take(row.nested)
  }
  const visit = (list: readonly PreparedBlock[], x: number, at: Place | undefined): void =>
    list.forEach(block => {
      const { columns, others } = kindOf(block)
      const table = columns?.(block, at)
      if (table) take(x ? { ...table, columns: table.columns.map(column => ({ ...column, x: column.x + x })) } : table)
      visit(block.inner ?? [], x, at)
      const nested = at && others?.(block, at)
      // what a nested report prints is known, not what it makes of its records
      if (nested) visit(nested.blocks, x + nested.x, undefined)
    })
  visit(layout.blocks, 0, place)
  const half = bodyWidth(layout.page) / 2
  if (!most) return { x: [0, half], width: [half, half] }
  const columns = most.columns.map(({ x, width, column }) => ({ x, width: column.fit ? Math.max(width, 64) : width }))
  const before = columns[0]!.x
  const all = before > 30 ? [{ x: 0, width: before }, ...columns] : columns
  return { x: all.map(column => column.x), width: all.map(column => column.width) }
}

/** How deep the outline of a layout's sheet goes. */
export function gridDepth(blocks: readonly PreparedBlock[]): number {
  return Math.max(0, ...blocks.map(block => Math.max(kindOf(block).depth?.(block) ?? 0, gridDepth(block.inner ?? []))))
}

/** The rows of a layout over some records, as a sheet holds them: page tops once, no page feet, titles once per table. */
export class GridMaker implements GridFlow {
  columns: GridColumns
  private instances = { last: 0 }
  private tops = false
  /** of a report that is nested in another: the block in which it stands */
  private nestedIn = ''
  /** `texts` asks for the printed text of values too, which takes its time */
  constructor(
    readonly composer: Place,
    private readonly texts = false,
    columns?: GridColumns,
  ) {
    this.columns = columns ?? gridColumns(composer.layout)
  }

  get layout(): PreparedLayout {
    return this.composer.layout
  }

  get values(): Values {
    return this.composer.values
  }

  /** Columns of statements are known once there are records. */
  begin(data: DataRecords): void {
    this.values.use(data)
    this.columns = gridColumns(this.layout, this.composer)
  }

  /** `top` puts the page top before all: wanted with the first records, and where each document has a sheet of its own. */
  *rows(data: DataRecords, top: 'first' | 'documents' | 'none'): Generator<GridEvent> {
    this.values.use(data)
    const all: Standing = { level: 0, from: 0, to: data.levels[0]!.count }
    if (top === 'first' && all.to) yield* this.pageTop({ ...all, to: 1 })
    this.tops = top === 'documents'
    yield* this.blocks(this.layout.blocks, all)
  }

  private *pageTop(at: Standing): Generator<GridEvent> {
    const panel = this.layout.firstTop ?? this.layout.top
    if (!panel || (panel.showWhen && !this.values.holds(panel.showWhen, at))) return
    yield* panelRows(panel, at, this)
    yield this.blank()
  }

  /** Its rows go into the same columns; its documents begin none, and its tables are none of those around it. */
  inside(block: string, x: number, layout: PreparedLayout, values: Values): GridFlow {
    const { paper } = this.composer
    const place: Place = { layout, values, paper, remarks: new Remarks(values, paper), rowKey: () => undefined }
    const inner = new GridMaker(place, this.texts, { x: this.columns.x.map(each => each - x), width: this.columns.width })
    inner.instances = this.instances
    inner.nestedIn = `${this.nestedIn}${block}/`
    return inner
  }

  blank(): GridEvent {
    return { row: { kind: 'panel', cells: [], depth: 0, nodes: [] } }
  }

  *document(name: string, at: Standing): Generator<GridEvent> {
    if (!this.nestedIn) yield { document: name, at: at.from }
    if (this.tops) yield* this.pageTop(at)
  }

  *blocks(list: readonly PreparedBlock[], at: Standing): Generator<GridEvent> {
    for (const block of list) {
      if (block.showWhen && !this.values.holds(block.showWhen, at)) continue
      const { grid } = kindOf(block)
      if (grid) yield* grid(block, at, this)
    }
  }

  /**
   * The columns of things that stand side by side, from left to right: each under its place on the page as far as it can, none in the place
   * of another, and in the same order. Where there are more of them than columns, those at the right have none.
   */
  placed(list: readonly { x: number; width: number; right: boolean }[]): (number | undefined)[] {
    const { x: edges, width: widths } = this.columns
    const last = edges.length - 1
    const wanted = list.slice(0, edges.length).map(({ x, width, right }) => {
      const point = right ? x + width - 2 : x + 2
      const found = edges.findIndex((edge, index) => point < edge + widths[index]!)
      return found < 0 ? last : found
    })
    for (let at = 1; at < wanted.length; at++) wanted[at] = Math.max(wanted[at]!, wanted[at - 1]! + 1)
    for (let at = wanted.length - 1, most = last; at >= 0; at--, most = wanted[at + 1]! - 1) wanted[at] = Math.min(wanted[at]!, most)
    return list.map((_, at) => wanted[at])
  }

  /** The value of a cell that is one number or date, with the pattern that prints it. */
  valued(typed: Typed, pattern: string | undefined, at: Standing): Pick<GridCell, 'value' | 'pattern'> {
    if (typed.type !== 'number' && typed.type !== 'date' && typed.type !== 'moment') return {}
    const value = this.values.evaluate(typed)(at)
    const chosen = patternOf(typed, pattern)
    return { value, ...(chosen ? { pattern: chosen } : {}) }
  }

  *table(table: PreparedTable, source: Iterable<Piece>): Generator<GridEvent> {
    const places = new Map<PreparedTable, { places: number[]; instance: number }>()
    let outermost: GroupNode | undefined
    let frame: Frame | undefined
    let { nodes, depth }: ReturnType<typeof around> = { nodes: [], depth: 0 }
    for (const piece of source) {
      const { row } = piece.row
      if (row.kind === 'forward' || row.kind === 'brought') continue
      if (piece.block) {
        yield* this.blocks([piece.block], piece.at)
        continue
      }
      const own = places.get(piece.table) ?? { places: this.columnsOf(piece.table), instance: ++this.instances.last }
      places.set(piece.table, own)
      if (piece.frame !== frame) ({ nodes, depth } = around((frame = piece.frame)))
      if (piece.table === table && nodes[0] && nodes[0] !== outermost) {
        outermost = nodes[0]
        if (!this.nestedIn) yield { group: outermost.label }
      }
      const level =
        (piece.row.deeper ?? 0) +
        (row.kind === 'line' || row.kind === 'extra'
          ? piece.table.groups.length + (row.kind === 'extra' ? 1 : 0)
          : Math.max(0, piece.row.depth))
      yield {
        row: this.tableRow(piece.table, piece.row, piece.at, own.places, {
          depth: depth + level,
          table: this.nestedIn + piece.table.block.id,
          instance: own.instance,
          nodes,
        }),
      }
    }
  }

  private columnsOf(table: PreparedTable): number[] {
    const places = this.placed(table.columns.map(({ x, width, column }) => ({ x, width, right: column.style?.align === 'right' })))
    // the sheet has as many columns as the table that has most
    return places.map((place, at) => place ?? at)
  }

  private readonly plans = new Map<PreparedCell, CellPlan>()
  private readonly adding = new Map<PreparedTable, boolean>()
  /** Are rows of a table added up by others, as in a statement? Only there they are called by their ids. */
  private addsRows(table: PreparedTable): boolean {
    let found = this.adding.get(table)
    if (found === undefined) this.adding.set(table, (found = table.rows.some(row => row.adds)))
    return found
  }

  /** What is the same for a cell in every row it is printed in. */
  private plan(row: PreparedRow, cell: PreparedCell): CellPlan {
    let found = this.plans.get(cell)
    if (!found) {
      const only = onlyValue(cell.text.lines)
      const single = only && ['number', 'date', 'moment'].includes(only.typed.type) ? only.typed : undefined
      found = {
        single,
        pattern: only && patternOf(only.typed, only.pattern),
        formula: (only && singleValue(row.row.cells[cell.id]?.text ?? '')?.formula.trim()) || undefined,
        mixed: only?.typed.type === 'number' && byCurrency(only.typed) !== undefined,
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
    const { composer, values } = this
    const cells: GridCell[] = []
    for (const cell of row.cells) {
      if (cell.when && !values.holds(cell.when, at)) continue
      const { single, pattern, formula, mixed } = this.plan(row, cell)
      let value = single && values.evaluate(single)(at)
      const text = value === undefined || mixed || this.texts ? values.print(cell.text)(at) : ''
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
      if (cell.heads) made.heads = true
      const span = cell.span > 1 ? places[Math.min(cell.column + cell.span, places.length) - 1]! - made.column + 1 : 1
      if (span > 1) made.span = span
      cells.push(made)
    }
    const made: GridRow = { kind: row.row.kind, cells, depth: more.depth, table: more.table, instance: more.instance, nodes: more.nodes }
    if (row.adds) made.adds = row.adds
    if (row.adds || (table.rows[0] !== row && this.addsRows(table))) made.id = row.row.id
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
