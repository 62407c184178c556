/** A figure that can be held against another. */
export type TieFigure =
  /** a formula over all records of a data set, such as `sum(lines.amount)` */
  | { is: 'formula', dataSet: string, formula: string }
  /** a line of a statement in one of its columns (`month#3` is the third copy of a repeated one) */
  | { is: 'line', statement: string, line: string, column: string }
  /** what a column of a table prints at the table’s end, added up over all its printings */
  | { is: 'total', table: string, column: string }

/** An equality that must hold whenever the report is run. */
export interface TieOut {
  id: string
  name: string
  left: TieFigure
  right: TieFigure
  /** by how much they may differ: a number as text, "0" for not at all */
  tolerance: string
}
