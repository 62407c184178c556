import type { CrosstabMeasure } from '../../definition/blocks/crosstab'
import type { GroupNode, Standing } from '../../formula/standing'
import type { AxisNode, Crossed, Met } from '../../shape/cross'
import { type Decimal, decimal, divide, subtract } from '../../value/decimal'
import { numberFormat } from '../../value/numberFormat'
import type { Value } from '../../value/value'
import type { CheckedValue } from '../text'
import type { Values } from '../values'
import type { PreparedCrosstab, PreparedMeasure } from './prepare'

/** What a cell prints: its value where it is one, and its text. */
export interface Figure {
  value: Value
  text: string
}

/** The records of a cell, as a formula stands on them; nothing where there are none (rule 35 of the semantics). */
export function cellStanding(
  { level }: Pick<PreparedCrosstab, 'level'>,
  crossed: Crossed,
  row: AxisNode,
  column: AxisNode,
): Standing | undefined {
  return standingOf(level, crossed.meet(row, column))
}

/** Records of several stretches as one, in their own order. */
export function together(parts: readonly (Met | { rows: Int32Array; from: number; to: number })[]): Met {
  const found = parts.map(part => ('records' in part ? part.records : part.rows).subarray(part.from, part.to))
  const records = new Int32Array(found.reduce((sum, part) => sum + part.length, 0))
  let next = 0
  for (const part of found) {
    records.set(part, next)
    next += part.length
  }
  records.sort()
  return { records, from: 0, to: records.length }
}

/** Some records as a formula stands on them; nothing where there are none. */
export function standingOf(level: number, { records, from, to }: Met): Standing | undefined {
  if (from === to) return undefined
  const whole: GroupNode = { depth: -1, from: 0, to: records.length, children: [], label: '', number: 1 }
  const node: GroupNode = { depth: 0, from, to, parent: whole, children: [], label: '', number: 1 }
  return { level, from: records[from]!, to: records[from]! + 1, covered: { rows: records, from, to, node } }
}

/** Shares and changes, where their author chose no other pattern. */
export const percentPattern = '0.0 %;−0.0 %'
/** Is a figure a share or a change, and has no format of per cents of its own? */
export const isPerCent = ({ look = 'plain', format }: CrosstabMeasure) =>
  !['plain', 'running', 'difference'].includes(look) && !format?.includes('%')

const isDecimal = (value: Value): value is Decimal => typeof value === 'object' && value !== null
const one = decimal(1)

/** Works out what stands where rows and columns of a crosstab meet; each cell once. */
export class Figures {
  /** by what its author wrote of the measure, then by row and column */
  private readonly found = new Map<string, Map<AxisNode, Map<AxisNode, Figure>>>()
  private readonly keys = new WeakMap<PreparedMeasure, Map<AxisNode, Map<AxisNode, Figure>>>()

  constructor(
    readonly level: number,
    private readonly crossed: Crossed,
    private readonly values: Values,
  ) {}

  /** What a measure comes to over some records, by itself; amounts of several currencies are no number. */
  over(measure: PreparedMeasure, at: Standing | undefined): Figure {
    if (!at) return { value: null, text: '' }
    const text = this.values.print(measure.text)(at)
    return { value: text.includes('\n') ? null : this.values.evaluate(measure.typed)(at), text }
  }

  /** The figure of a measure by itself, whatever it is seen as. */
  private plain(measure: PreparedMeasure, row: AxisNode, column: AxisNode): Figure {
    return this.over(measure, cellStanding(this, this.crossed, row, column))
  }

  figure(measure: PreparedMeasure, row: AxisNode, column: AxisNode): Figure {
    let rows = this.keys.get(measure)
    if (!rows) {
      const { formula, format, look, along } = measure.measure
      const key = JSON.stringify([formula, format, look, along])
      rows = this.found.get(key)
      if (!rows) this.found.set(key, (rows = new Map()))
      this.keys.set(measure, rows)
    }
    let columns = rows.get(row)
    if (!columns) rows.set(row, (columns = new Map()))
    let figure = columns.get(column)
    if (!figure) columns.set(column, (figure = this.make(measure, row, column)))
    return figure
  }

  private make(measure: PreparedMeasure, row: AxisNode, column: AxisNode): Figure {
    const { look = 'plain', along = 'columns' } = measure.measure
    if (look === 'plain') return this.plain(measure, row, column)
    return this.printed(measure, this.seen(measure, look, along, row, column))
  }

  private printed({ measure, text }: PreparedMeasure, value: Value): Figure {
    if (value === null) return { value: null, text: '' }
    const only = text.lines[0]![0] as CheckedValue
    const percent = isPerCent(measure)
    const print = percent ? (each: Value) => numberFormat(percentPattern, this.values.language)(each as Decimal) : only.print
    return { value, text: print(value) }
  }

  private seen(
    measure: PreparedMeasure,
    look: NonNullable<CrosstabMeasure['look']>,
    along: 'rows' | 'columns',
    row: AxisNode,
    column: AxisNode,
  ): Value {
    const { rows, columns } = this.crossed
    const own = this.plain(measure, row, column).value
    const of = (whole: Value): Value => (isDecimal(own) && isDecimal(whole) ? (divide(own, whole) ?? null) : null)
    switch (look) {
      case 'shareOfRow':
        return of(this.plain(measure, row, columns).value)
      case 'shareOfColumn':
        return of(this.plain(measure, rows, column).value)
      case 'shareOfAll':
        return of(this.plain(measure, rows, columns).value)
      case 'running':
        return this.upTo(measure, along, row, column)
      case 'difference':
      case 'percent': {
        const node = along === 'rows' ? row : column
        const before = neighbourBefore(node)
        if (!before) return null
        const other = (along === 'rows' ? this.plain(measure, before, column) : this.plain(measure, row, before)).value
        if (!isDecimal(own) || !isDecimal(other)) return null
        if (look === 'difference') return subtract(own, other)
        const ratio = divide(own, other)
        return ratio ? subtract(ratio, one) : null
      }
      default:
        return own
    }
  }

  /** A measure over the records of a group and of its neighbours before it. */
  private upTo(measure: PreparedMeasure, along: 'rows' | 'columns', row: AxisNode, column: AxisNode): Value {
    const node = along === 'rows' ? row : column
    const neighbours = node.parent?.children ?? [node]
    const parts = neighbours
      .slice(0, neighbours.indexOf(node) + 1)
      .map(each => (along === 'rows' ? this.crossed.meet(each, column) : this.crossed.meet(row, each)))
    return this.over(measure, standingOf(this.level, together(parts))).value
  }
}

/** The neighbour printed before a group, within the group around both (rule 36 of the semantics). */
function neighbourBefore(node: AxisNode): AxisNode | undefined {
  const neighbours = node.parent?.children ?? []
  return neighbours[neighbours.indexOf(node) - 1]
}
