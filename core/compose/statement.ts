import type { RowKind } from '../definition/blocks/table'
import type { TextStyle, ThemeDefinition } from '../definition/style'
import { type StatementBlock, type StatementColumn, type StatementLine, statementRowId } from '../definition/blocks/statement'
import type { LevelInfo, Scope, Typed } from '../formula/typed'
import { tableLevel } from '../model/levels'
import { columnOf } from '../value/columns'
import type { DataRecords } from '../value/records'
import { checkFormula } from '../formula/check'
import { fieldsUsed } from '../formula/parts'
import { compileFormula } from '../formula/evaluate'
import { FormulaError } from '../formula/syntax'
import { AccountsError, readAccounts } from '../statement/accounts'
import { ColumnError, type StandingColumn, standingColumns } from '../statement/columns'
import { figuresOf, type LedgerFigures, type LedgerWords } from '../statement/figures'
import type { LedgerMap } from '../books/ledger'
import { type ReadyLine, type ShapedStatement, shapeStatement, type StatementRow } from '../statement/shape'
import type { FiscalCalendar } from '../books/calendar'
import type { Decimal } from '../value/decimal'
import { numberFormat } from '../value/numberFormat'
import { literal, literalRow, placeColumns } from './literal'
import type { LayoutProblem, PreparedCell, PreparedRow, PreparedTable } from './prepare'
import { type DraftRow, fitColumns } from './statementWidths'
import { type ResolvedStyle, resolveStyle, rowRole } from './style'
import type { CheckedText } from './text'

/** A statement with its formulas, choices of accounts and texts checked; its columns are found when the answers are known. */
export interface PreparedStatement {
  kind: 'statement'
  block: StatementBlock
  level: number
  showWhen?: Typed
  x: number
  width: number
  theme: ThemeDefinition
  lines: (ReadyLine & { caption: CheckedText })[]
  titles: Map<string, CheckedText>
  anchors: Map<string, Typed>
  footnotes: { id: string; text: CheckedText }[]
  ledger?: LedgerMap
}

type At = Omit<LayoutProblem, 'sentence' | 'from' | 'to'>
export interface StatementSurroundings {
  scope: Scope
  theme: ThemeDefinition
  ledger: LedgerMap | undefined
  text: (source: string, at: At) => CheckedText
  formula: (source: string, at: At) => Typed | undefined
  problem: (problem: LayoutProblem) => void
}

/** Fields of its level that a statement reads. */
export const statementFields = [
  'account',
  'account_name',
  'account_type',
  'account_class',
  'account_parent',
  'period',
  'version',
  'branch',
  'department',
  'debit',
  'credit',
]

/** A level whose fields are the lines of a statement, so that formulas over them are formulas like any other. */
export function lineLevel(lines: readonly StatementLine[]): LevelInfo {
  const columns = lines
    .filter(line => line.kind === 'accounts' || line.kind === 'formula' || line.kind === 'sum')
    .map(line => ({ name: line.id, type: 'number' as const, databaseType: 'numeric', required: false }))
  return tableLevel({ schema: '', name: 'lines', columns, primaryKey: [], rowEstimate: 0 }, 'lines')
}

export function prepareStatement(
  block: StatementBlock,
  level: number,
  width: number,
  showWhen: Typed | undefined,
  around: StatementSurroundings,
): PreparedStatement {
  const own = lineLevel(block.lines)
  const lines = block.lines.map((line): PreparedStatement['lines'][number] => {
    const at = { block: block.id, row: line.id }
    const caption = around.text(line.caption ?? '', { ...at, cell: 'caption', place: 'text' })
    if (line.kind === 'accounts') {
      try {
        return { line, caption, takes: readAccounts(line.accounts ?? '') }
      } catch (error) {
        if (!(error instanceof AccountsError)) throw error
        around.problem({ ...at, cell: 'caption', place: 'accounts', sentence: error.message, from: error.from, to: error.to })
        return { line, caption, takes: () => false }
      }
    }
    if (line.kind !== 'formula') return { line, caption }
    try {
      const typed = checkFormula(line.formula ?? '', { levels: [own], level: 0, parameters: around.scope.parameters })
      if (typed.type !== 'number' && typed.type !== 'empty')
        throw new FormulaError('A line holds numbers; write a formula such as sales - cost.', 0, line.formula!.length)
      const needs = [...new Set(fieldsUsed(typed).map(field => field.path))]
      const addends = addedIn(typed)
      return { line, caption, needs, evaluate: evaluator(typed, own, needs), ...(addends ? { addends } : {}) }
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error
      around.problem({ ...at, cell: 'caption', place: 'accounts', sentence: error.message, from: error.from, to: error.to })
      return { line, caption, needs: [] }
    }
  })
  const titles = new Map(
    block.columns.flatMap(column =>
      column.title
        ? [[column.id, around.text(column.title, { block: block.id, row: 'titles', cell: column.id, place: 'text' })] as const]
        : [],
    ),
  )
  const anchors = new Map(
    block.columns.flatMap(column =>
      [column.span?.anchor, column.span?.to, column.versionFrom].flatMap(source => {
        const typed =
          source === undefined ? undefined : around.formula(source, { block: block.id, row: 'titles', cell: column.id, place: 'text' })
        return source !== undefined && typed ? [[source, typed] as const] : []
      }),
    ),
  )
  const footnotes = (block.footnotes ?? []).map(({ id, text }) => ({
    id,
    text: around.text(text, { block: block.id, row: `footnote ${id}`, cell: 'caption', place: 'text' }),
  }))
  return {
    kind: 'statement',
    block,
    level,
    ...(showWhen ? { showWhen } : {}),
    x: block.left,
    width: block.width || Math.max(24, width - block.left),
    theme: around.theme,
    lines,
    titles,
    anchors,
    footnotes,
    ...(around.ledger ? { ledger: around.ledger } : {}),
  }
}

/** The lines that a formula adds up and takes off, where it does nothing else. */
function addedIn(typed: Typed, by: 1 | -1 = 1): { line: string; by: 1 | -1 }[] | undefined {
  if (typed.is === 'field') return [{ line: typed.path, by }]
  if (typed.is === 'negative') return addedIn(typed.value, by === 1 ? -1 : 1)
  if (typed.is !== 'binary' || (typed.operator !== '+' && typed.operator !== '-')) return undefined
  const [left, right] = [addedIn(typed.left, by), addedIn(typed.right, typed.operator === '+' ? by : by === 1 ? -1 : 1)]
  const all = left && right && [...left, ...right]
  return all && new Set(all.map(each => each.line)).size === all.length ? all : undefined
}

function evaluator(typed: Typed, level: LevelInfo, needs: readonly string[]): NonNullable<ReadyLine['evaluate']> {
  return of => {
    const columns = Object.fromEntries(needs.map(id => [id, columnOf('number', [of(id)])]))
    const data: DataRecords = { levels: [{ count: 1, columns, starts: Int32Array.of(0, 1) }] }
    return compileFormula(typed, { levels: [level], data, parameters: {}, today: 0 })({ level: 0, from: 0, to: 1 }) as Decimal | null
  }
}

const noBooks: LedgerWords = { types: {}, retainedEarnings: '' }

/** A statement worked out for the records at hand. */
export interface LaidStatement {
  table: PreparedTable
  rows: { row: PreparedRow; newPage: boolean }[]
  columns: StandingColumn[]
  /** what stands over each column that is shown, on one line */
  titles: Map<string, string>
  shaped: ShapedStatement
  books: LedgerFigures
}

export interface StatementRun {
  data: DataRecords
  /** which records of the books it stands on: from, and up to before */
  rows?: readonly (readonly [number, number])[]
  language: string
  calendar: FiscalCalendar | undefined
  evaluate: (typed: Typed) => string
  print: (text: CheckedText) => string
  remark: (key: string, sentence: string, more?: { kind?: 'narrow'; row?: string }) => void
}

/** Works out a statement and makes it a table of literal figures, which is broken over pages and written to sheets like any other. */
export function layStatement(prepared: PreparedStatement, run: StatementRun): LaidStatement {
  const { block, theme } = prepared
  const records = run.data.levels[prepared.level]!
  const books = figuresOf(records, prepared.ledger ?? noBooks, run.rows)
  let columns: StandingColumn[] = []
  try {
    if (!run.calendar)
      throw new ColumnError('The source has no fiscal calendar, so there are no periods for the columns of a statement.', '')
    columns = standingColumns(
      block.columns.filter(column => !column.hidden || block.columns.some(other => other.of?.includes(column.id))),
      {
        calendar: run.calendar,
        anchor: formula => (prepared.anchors.has(formula) ? run.evaluate(prepared.anchors.get(formula)!) : ''),
        branches: books.branches,
        departments: books.departments,
      },
    )
  } catch (error) {
    if (!(error instanceof ColumnError)) throw error
    run.remark(`columns ${block.id}`, error.message)
  }
  const shaped = shapeStatement(block, prepared.lines, columns, books)
  remarkAccounts(prepared, shaped, run)
  const shown = columns.map((column, index) => ({ ...column, index })).filter(each => !each.column.hidden)
  const captions = new Map(prepared.lines.map(({ line, caption }) => [line.id, run.print(caption)]))
  const texts = shaped.rows.map(row =>
    shown.map(({ index, column }) => ({ value: row.figures[index] ?? null, pattern: patternFor(block, row, column) })),
  )
  const printers = new Map<string, { print: (value: Decimal) => string; texts: Map<Decimal, string> }>()
  // a figure is measured, then written
  const printed = (value: Decimal, pattern: string) => {
    let known = printers.get(pattern)
    if (!known) printers.set(pattern, (known = { print: numberFormat(pattern, run.language), texts: new Map() }))
    let text = known.texts.get(value)
    if (text === undefined) known.texts.set(value, (text = known.print(value)))
    return text
  }
  const titles = shown.map(({ column, words }) => {
    const own = prepared.titles.get(column.id)
    return own ? (column.repeat ? `${run.print(own)}\n${words}` : run.print(own)) : words
  })
  const idOf = ({ line, part, account, above }: StatementRow) =>
    statementRowId({ line: line.id, part, path: account ? [...(above ?? []), account.code] : [] })
  /**
   * The rows whose printed figures a row comes to: of a line its accounts, of a sum or formula other lines; an account that ends those
   * under it, these.
   */
  const addedRows = (row: StatementRow, id: string): { row: string; by: 1 | -1 }[] | undefined => {
    const accounts = shaped.rows.filter(each => each.part === 'account' && each.line === row.line)
    if (row.part === 'ends')
      return accounts
        .map(idOf)
        .filter(each => each.startsWith(id.replace(/ ends$/, '/')))
        .map(each => ({ row: each, by: 1 }))
    if (row.part !== 'line' || row.line.format) return undefined
    if (row.line.kind === 'accounts') return accounts.map(each => ({ row: idOf(each), by: 1 }))
    if (row.line.kind === 'sum') return shaped.addedBy(row.line.id).map(line => ({ row: line, by: 1 }))
    return prepared.lines.find(each => each.line.id === row.line.id)?.addends?.map(each => ({ row: each.line, by: each.by }))
  }
  const drafts: (DraftRow & Pick<PreparedRow, 'adds' | 'deeper'> & { newPage: boolean; ratio?: string })[] = []
  let newPage = false
  shaped.rows.forEach((row, at) => {
    const { line, account, part } = row
    if (line.kind === 'break') {
      newPage = true
      return
    }
    const total = part === 'line' && !!line.expand && shaped.rows[at - 1]?.line === line
    const mark = line.footnote && !account ? ` ${noteMark(block, line.footnote)}` : ''
    const caption = account
      ? part === 'ends'
        ? `Total ${lowered(account.name)}`
        : block.codes
          ? `${account.code}  ${account.name}`
          : account.name
      : total
        ? `Total ${lowered(captions.get(line.id)!)}${mark}`
        : `${captions.get(line.id)}${mark}`
    const own: TextStyle | undefined =
      line.kind === 'blank'
        ? { size: 6, ...line.style }
        : line.kind === 'rule'
          ? { size: 2, ...line.style, ...{ above: line.style?.above ?? 'thin' } }
          : part === 'line'
            ? line.style
            : { ...line.style, bold: false, ...{ above: part === 'ends' ? 'hair' : 'none', below: 'none' } }
    const id = idOf(row)
    const adds = addedRows(row, id)
    drafts.push({
      id,
      kind: kindOf(row, total),
      own,
      caption: line.kind === 'blank' || line.kind === 'rule' ? '' : caption,
      indent: (line.indent ?? 0) + (account ? 1 + (row.above?.length ?? 0) : 0),
      figures: texts[at]!,
      newPage,
      ...(line.format ? { ratio: patternFor(block, row, shown[0]?.column ?? { id: '', kind: 'activity', width: 0 }) } : {}),
      ...(adds?.length ? { adds } : {}),
      ...(row.above?.length ? { deeper: row.above.length } : {}),
    })
    newPage = false
  })
  const { definitions, factor } = fitColumns(drafts, shown, titles, theme, prepared.width, printed)
  if (factor < 0.8)
    run.remark(
      `wide ${block.id}`,
      `The ${shown.length} columns of the statement are written at ${Math.round(factor * 100)} % of their size to fit the page.`,
      { kind: 'narrow' },
    )
  const placed = placeColumns(definitions, prepared.x, prepared.width)
  const styled = (kind: RowKind, ...own: (TextStyle | undefined)[]): ResolvedStyle => {
    const style = resolveStyle(theme, own[0], theme.rows[rowRole(kind)], ...own.slice(1))
    return factor < 1 ? { ...style, size: style.size * factor } : style
  }
  const rowOf = ({
    id,
    kind,
    own,
    caption,
    indent,
    figures,
    ratio,
    adds,
    deeper,
  }: DraftRow & Pick<PreparedRow, 'adds' | 'deeper'> & { ratio?: string }): PreparedRow => {
    const cell = (column: number, text: CheckedText, more: Partial<PreparedCell> = {}, extra?: TextStyle): PreparedCell => ({
      column,
      span: 1,
      id: definitions[column]!.id,
      text,
      style: styled(kind, definitions[column]!.style, own, extra),
      ...more,
    })
    const cells = [
      ...(caption ? [cell(0, literal(caption), {}, indent ? { indent: (own?.indent ?? 0) + indent * 10 } : undefined)] : []),
      ...figures.flatMap(({ value, pattern }, index) =>
        value === null
          ? []
          : [
              cell(
                index + 1,
                {
                  lines: [[{ typed: { is: 'constant', type: 'number', value }, pattern, print: () => printed(value, pattern) }]],
                  formulas: [],
                  late: false,
                },
                pattern === ratio ? {} : { pattern },
              ),
            ],
      ),
    ]
    return { ...literalRow({ id, kind, cells: {} }, theme, own, cells), ...(adds ? { adds } : {}), ...(deeper ? { deeper } : {}) }
  }
  const rows: LaidStatement['rows'] = drafts.map(draft => ({ row: rowOf(draft), newPage: draft.newPage }))
  const head = rowOf({ id: 'titles', kind: 'titles', own: block.titles, caption: scaleWords(block), indent: 0, figures: [] })
  head.cells.push(
    ...titles.map((title, index): PreparedCell => ({
      column: index + 1,
      span: 1,
      id: definitions[index + 1]!.id,
      text: literal(title),
      style: styled('titles', definitions[index + 1]!.style, block.titles, { vertical: 'bottom' }),
    })),
  )
  for (const { id, text } of prepared.footnotes) {
    const found = rowOf({
      id: `footnote ${id}`,
      kind: 'end',
      own: { ...theme.named.small, bold: false, ...{ above: 'none', below: 'none' } },
      caption: `${noteMark(block, id)} ${run.print(text)}`,
      indent: 0,
      figures: [],
    })
    rows.push({ row: { ...found, cells: found.cells.map(cell => ({ ...cell, span: definitions.length })) }, newPage: false })
  }
  const table: PreparedTable = {
    kind: 'table',
    level: prepared.level,
    x: prepared.x,
    width: prepared.width,
    columns: placed,
    groups: [],
    sort: [],
    looks: [],
    theme,
    rows: [head, ...rows.map(each => each.row)],
    block: {
      id: block.id,
      kind: 'table',
      level: block.level,
      left: block.left,
      width: block.width,
      columns: definitions,
      groups: [],
      rows: [],
      repeatTitles: block.repeatTitles,
      after: block.after,
    },
  }
  return { table, rows, columns, titles: new Map(shown.map(({ id }, index) => [id, titles[index]!.replaceAll('\n', ' ')])), shaped, books }
}

const lowered = (text: string) => (/^\p{Lu}\p{Ll}/u.test(text) ? text.charAt(0).toLowerCase() + text.slice(1) : text)
const noteMark = (block: StatementBlock, id: string) => {
  const place = (block.footnotes ?? []).findIndex(each => each.id === id)
  return place < 0 ? '' : ('¹²³⁴⁵⁶⁷⁸⁹'[place] ?? `(${place + 1})`)
}
const scaleWords = ({ scale, currency, currencyAt }: StatementBlock) => {
  const said = currencyAt ? undefined : currency
  return scale === 'units' ? (said ?? '') : `${said ? `${said}, in ` : 'In '}${scale}`
}

/** Which kind of row of a table it looks like. */
function kindOf(row: StatementRow, total = false): RowKind {
  const { line, part } = row
  if (part !== 'line' && part !== 'opens') return 'extra'
  if (line.kind === 'heading') return 'groupStart'
  if (line.kind === 'sum' || line.kind === 'formula' || total) return 'groupEnd'
  return 'line'
}

export function patternFor(block: StatementBlock, row: StatementRow, column: StatementColumn): string {
  const below = (pattern: string) => (block.negatives === 'parentheses' ? `(${pattern})` : `−${pattern}`)
  if (column.kind === 'percent' || column.kind === 'share') return `0.0 %;${below('0.0 %')};–`
  if (row.line.format) return row.line.format.includes(';') ? row.line.format : `${row.line.format};${below(row.line.format)}`
  const signed =
    block.currency &&
    (block.currencyAt === 'figures' || (block.currencyAt === 'sums' && (row.line.kind === 'sum' || row.line.kind === 'formula')))
  const digits = `${
    signed ? `'${block.currency!.replaceAll("'", "''")} ` + `'` : ''
  }#,##0${block.decimals ? `.${'0'.repeat(block.decimals)}` : ''}`
  return `${digits};${below(digits)};–`
}

/** Accounts that stand nowhere or twice are said, with what they come to. */
function remarkAccounts({ block }: PreparedStatement, { missing, twice }: ShapedStatement, run: StatementRun): void {
  const print = numberFormat('#,##0.00', run.language)
  const list = (accounts: readonly { account: { code: string }; amount?: Decimal }[]) =>
    `${accounts
      .slice(0, 6)
      .map(({ account, amount }) => (amount ? `${account.code} ${print(amount)}` : account.code))
      .join(', ')}${accounts.length > 6 ? ' …' : ''}`
  if (missing.length)
    run.remark(
      `missing ${block.id}`,
      `${missing.length === 1 ? '1 account with movements stands' : `${missing.length} accounts with movements stand`} in no line: ` +
        `${list(missing)}.`,
    )
  if (twice.length)
    run.remark(
      `twice ${block.id}`,
      `${twice.length === 1 ? '1 account stands' : `${twice.length} accounts stand`} in more than one line: ${list(twice)}.`,
      { row: twice[0]!.lines[1]! },
    )
}
