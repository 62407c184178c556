import type { BlockBase, RowStyle, TextStyle } from './types'

/**
 * The books of the source as rows: one for each account, period, and (where a statement asks for them) version of the budget, branch
 * and department, and one for each account that has
 * none. Its columns are `account`, `account_name`, `account_type`, `account_class`, `account_parent`, `period` (a code of the fiscal
 * calendar; empty for all before the first one that is needed), `version`
 * (empty for what was posted), `branch`, `department`, `debit` and `credit`. Closing journals are left out (rule 31 of the semantics).
 * Periods are those that the report's statements need.
 */
export interface LedgerTable {
  kind: 'ledger'
  name: string
  /** formulas over account, account_type, account_class, account_parent, branch, department and date (of posting): what counts */
  filters: string[]
}

export const statementLineKinds = ['heading', 'accounts', 'formula', 'sum', 'blank', 'rule', 'break'] as const
export type StatementLineKind = (typeof statementLineKinds)[number]

/** A line of a statement. Its id is the word by which formulas call it. */
export interface StatementLine {
  id: string
  kind: StatementLineKind
  /** text with values in it */
  caption?: string
  /** steps of 10 points */
  indent?: number
  style?: RowStyle
  /** which accounts: see core/statement/accounts.ts */
  accounts?: string
  /** as its accounts' nature wants it (more income is positive, more expense too), or as debits or credits are positive */
  sign?: 'natural' | 'debit' | 'credit'
  /** its accounts stand above it, one by one; as `tree` with the accounts that they stand under, each with its sum */
  expand?: boolean | 'tree'
  /** it is left out where all its figures are zero */
  hideZero?: boolean
  /** of a formula: over other lines, by their ids */
  formula?: string
  /** pattern of its figures, where they are not amounts: a ratio's `0.0 %` */
  format?: string
  /** of a sum: from which line to which; the account lines since the sum before it where nothing is said */
  from?: string
  to?: string
  /** only these branches or departments, by code */
  branches?: string[]
  departments?: string[]
  /** it stands with this footnote */
  footnote?: string
}

export const statementUnits = ['period', 'quarter', 'year', 'yearToDate', 'last', 'range'] as const
/** A stretch of the fiscal calendar, seen from a period. */
export interface StatementSpan {
  unit: (typeof statementUnits)[number]
  /** a formula that gives a period's code: `param.period` */
  anchor: string
  /** of a range: the period it ends with; it begins with the anchor */
  to?: string
  /** how many periods `last` has */
  count?: number
  /** so many periods, quarters or years earlier */
  back?: number
  backBy?: 'period' | 'quarter' | 'year'
}

export const statementMeasures = ['activity', 'balance', 'opening', 'debit', 'credit', 'budget'] as const
export type StatementMeasure = (typeof statementMeasures)[number]

/** A column of a statement: figures of the books, or worked out from other columns. */
export interface StatementColumn {
  id: string
  /** text with values in it; what it holds is said in words where nothing is written */
  title?: string
  /** points; 0 shares the width that is left */
  width: number
  hidden?: boolean
  style?: TextStyle
  kind: StatementMeasure | 'difference' | 'percent' | 'total' | 'average' | 'share'
  span?: StatementSpan
  /** of a budget; the first where nothing is said */
  version?: string
  /** a formula that gives the version: `param.version`; an empty one leaves it to `version` */
  versionFrom?: string
  branches?: string[]
  departments?: string[]
  /** once for each of so many periods, quarters or years up to its own, or for each branch or department */
  repeat?: { over: 'period' | 'quarter' | 'year' | 'branch' | 'department'; count?: number }
  /**
   * columns that it is worked out from: of a difference and a per cent the one, then what it is held against; a repeated column stands
   * for all its copies
   */
  of?: string[]
  /** of a share: the line that is 100 % */
  line?: string
  /** a difference is positive where it is better, by the nature of each line (rule 29) */
  favourable?: boolean
}

export const statementScales = ['units', 'thousands', 'millions'] as const

/** Lines by columns, from the books. */
export interface StatementBlock extends BlockBase {
  kind: 'statement'
  /** a level that reads a ledger table */
  level: string
  left: number
  /** 0 takes all the text width that is left */
  width: number
  lines: StatementLine[]
  columns: StatementColumn[]
  scale: (typeof statementScales)[number]
  decimals: number
  negatives: 'minus' | 'parentheses'
  /** the currency, said in the titles, or before each figure, or before those of sums and formulas only */
  currency?: string
  currencyAt?: 'figures' | 'sums'
  /** account codes stand before names */
  codes: boolean
  /** accounts without figures stand too, where a line shows its accounts */
  zeroAccounts: boolean
  repeatTitles: boolean
  titles?: RowStyle
  /** texts with values, printed under the statement */
  footnotes?: { id: string; text: string }[]
}

export const chartForms = ['bars', 'stacked', 'lines', 'areas'] as const

/** A line of a statement as it is drawn; `form` where it is not the chart's own: lines over bars. */
export interface ChartSeries {
  line: string
  form?: 'bars' | 'lines' | 'areas'
  colour?: string
}

/** Lines of a statement over its columns, drawn. The statement stands on the same layout; it may be hidden by its rule. */
export interface ChartBlock extends BlockBase {
  kind: 'chart'
  /** id of the statement's block */
  statement: string
  left: number
  /** 0 takes all the text width that is left */
  width: number
  height: number
  form: (typeof chartForms)[number]
  series: ChartSeries[]
  /** columns that are drawn; all that hold figures of the books where nothing is said */
  columns?: string[]
  /** text with values in it */
  title?: string
  legend: boolean
  /** figures stand at bars and points */
  figures: boolean
}
