import { type AccountNature, accountNatures } from '../books/ledger'
import { array, lazy, mixed, object } from 'yup'
import { formula, name } from './checks'

/** A figure that can be held against another. */
export type TieFigure =
  /** a formula over all records of a data set, such as `sum(lines.amount)` */
  | { is: 'formula'; dataSet: string; formula: string }
  /** a line of a statement in one of its columns (`month#3` is the third copy of a repeated one, `month` all of them together) */
  | { is: 'line'; statement: string; line: string; column: string }
  /**
   * what all accounts of some types come to in a column of a statement, straight from the books: credits less debits, of assets and
   * expenses alone debits less credits
   */
  | { is: 'trial'; statement: string; column: string; types: AccountNature[] }
  /** how many lines a table prints */
  | { is: 'rows'; table: string }
  /** what a column of a table prints at the table’s end, added up over all its printings */
  | { is: 'total'; table: string; column: string }

/** An equality that must hold whenever the report is run. */
export interface TieOut {
  id: string
  name: string
  left: TieFigure
  right: TieFigure
  /** by how much they may differ: a number as text, "0" for not at all */
  tolerance: string
}

/** What a tie-out came to. Figures are exact and written as numbers; `sentence` says why there is none. */
export interface TieOutResult {
  id: string
  name: string
  left?: string
  right?: string
  difference?: string
  holds: boolean
  sentence?: string
}

export const figureSchema = lazy((value: { is?: string }) => {
  switch (value?.is) {
    case 'formula':
      return object({ is: name, dataSet: name, formula }).noUnknown()
    case 'line':
      return object({ is: name, statement: name, line: name, column: name }).noUnknown()
    case 'total':
      return object({ is: name, table: name, column: name }).noUnknown()
    case 'rows':
      return object({ is: name, table: name }).noUnknown()
    case 'trial':
      return object({
        is: name,
        statement: name,
        column: name,
        types: array(mixed().oneOf([...accountNatures]))
          .required()
          .min(1),
      }).noUnknown()
    default:
      return object({ is: mixed().oneOf(['formula', 'line', 'trial', 'rows', 'total']).required() })
  }
})
