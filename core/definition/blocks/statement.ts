import type { BlockShape } from './shape'
import { type BlockBase, blockFields } from './base'
import { type RowStyle, rowStyleSchema, styleSchema, type TextStyle } from '../style'
import { array, boolean, mixed, object } from 'yup'
import { codes, count, formula, identifier, name, plain, points, rule, text } from '../checks'

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

/**
 * What a row of a statement prints: a line, or of a line that shows its accounts their heading (opens), an account, or an account of a
 * tree with those under it (heading, ends).
 */
export interface StatementRowPlace {
  line: string
  part: 'line' | 'opens' | 'account' | 'heading' | 'ends'
  /** codes of the accounts of the tree down to its own */ path: string[]
}

/** The id of a row on the page: codes may hold any sign. */
export function statementRowId({ line, part, path }: StatementRowPlace): string {
  return [
    line,
    ...(path.length ? [path.map(encodeURIComponent).join('/')] : []),
    ...(part === 'line' || part === 'account' ? [] : [part]),
  ].join(' ')
}
export function readStatementRow(id: string): StatementRowPlace {
  const [line = '', ...rest] = id.split(' ')
  const last = rest.at(-1)
  const part =
    last === 'opens' || (rest.length > 1 && (last === 'heading' || last === 'ends'))
      ? (last as StatementRowPlace['part'])
      : rest.length
        ? 'account'
        : 'line'
  return { line, part, path: part === 'opens' ? [] : (rest[0] ?? '').split('/').filter(Boolean).map(decodeURIComponent) }
}

export const statementSchema = object({
  ...blockFields,
  kind: mixed().oneOf(['statement']).required(),
  level: name,
  left: points.min(0),
  width: points.min(0),
  scale: mixed()
    .oneOf([...statementScales])
    .required(),
  decimals: count(6).required(),
  negatives: mixed().oneOf(['minus', 'parentheses']).required(),
  currency: plain,
  currencyAt: mixed().oneOf(['figures', 'sums']),
  codes: boolean().strict().required(),
  zeroAccounts: boolean().strict().required(),
  repeatTitles: boolean().strict().required(),
  titles: rowStyleSchema,
  footnotes: array(object({ id: name, text }).noUnknown()),
  lines: array(
    object({
      id: identifier,
      kind: mixed()
        .oneOf([...statementLineKinds])
        .required(),
      caption: plain,
      indent: count(20),
      style: rowStyleSchema,
      accounts: plain.max(4000),
      sign: mixed().oneOf(['natural', 'debit', 'credit']),
      expand: mixed().oneOf([true, false, 'tree']),
      hideZero: boolean().strict(),
      formula: rule,
      format: plain.max(200),
      from: plain,
      to: plain,
      branches: codes,
      departments: codes,
      footnote: plain,
    }).noUnknown(),
  )
    .required()
    .max(2000),
  columns: array(
    object({
      id: identifier,
      title: plain,
      width: points.min(0),
      hidden: boolean().strict(),
      style: styleSchema,
      kind: mixed()
        .oneOf([...statementMeasures, 'difference', 'percent', 'total', 'average', 'share'])
        .required(),
      span: object({
        unit: mixed()
          .oneOf([...statementUnits])
          .required(),
        anchor: formula,
        to: rule,
        count: count(60),
        back: count(200),
        backBy: mixed().oneOf(['period', 'quarter', 'year']),
      })
        .noUnknown()
        .default(undefined),
      version: plain,
      versionFrom: rule,
      branches: codes,
      departments: codes,
      repeat: object({ over: mixed().oneOf(['period', 'quarter', 'year', 'branch', 'department']).required(), count: count(60) })
        .noUnknown()
        .default(undefined),
      of: array(name),
      line: plain,
      favourable: boolean().strict(),
    }).noUnknown(),
  )
    .required()
    .max(100),
}).noUnknown()

export const statementShape: BlockShape<StatementBlock> = { kind: 'statement', schema: () => statementSchema }

export const isStatementBlock = (block: { kind: string } | undefined): block is StatementBlock => block?.kind === 'statement'
