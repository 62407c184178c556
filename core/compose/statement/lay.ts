import { decapitalised } from '../../catalog/types'
import type { RowKind } from '../../definition/blocks/table'
import type { TextStyle } from '../../definition/style'
import { type StatementBlock, type StatementColumn, statementRowId } from '../../definition/blocks/statement'
import type { Typed } from '../../formula/typed'
import type { DataRecords } from '../../value/records'
import { ColumnError, type StandingColumn, standingColumns } from '../../statement/columns'
import { figuresOf, type LedgerFigures, type LedgerWords } from '../../statement/figures'
import { type ShapedStatement, shapeStatement, type StatementRow } from '../../statement/shape'
import type { FiscalCalendar } from '../../books/calendar'
import type { Decimal } from '../../value/decimal'
import { numberFormat } from '../../value/numberFormat'
import { literal, literalRow, placeColumns } from '../table/literal'
import type { PreparedCell, PreparedRow, PreparedTable } from '../prepared'
import type { Standing } from '../../formula/standing'
import type { Place } from '../place'
import { type DraftRow, fitColumns, wideRemedies } from './widths'
import { type ResolvedStyle, resolveStyle, rowRole } from '../style'
import type { CheckedText } from '../text'
import type { PreparedStatement } from './prepare'

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

interface StatementRun {
  data: DataRecords
  /** which records of the books it stands on: from, and up to before */
  rows?: readonly (readonly [number, number])[]
  language: string
  calendar: FiscalCalendar | undefined
  evaluate: (typed: Typed) => string
  print: (text: CheckedText) => string
  remark: (key: string, sentence: string, more?: { kind?: 'narrow'; row?: string }) => void
}

/**
 * A statement worked out once for the records at hand; inside a repeat, for those under the record in which it stands. What is noticed is
 * told wherever it is laid out.
 */
export function laidStatement(block: PreparedStatement, place: Place, within?: Standing): LaidStatement {
  const { values, remarks, layout } = place
  const at: Standing = within ?? { level: 0, from: 0, to: values.data.levels[0]!.count }
  const rows = [...values.lineage.covered(at.from, at.to, at.level, block.level)]
  const known = values.memo(block, () => new Map<string, { laid: LaidStatement; said: Parameters<StatementRun['remark']>[] }>())
  const key = `${values.language} ${JSON.stringify(rows)}`
  let found = known.get(key)
  if (!found) {
    const some = rows[0] && rows[0][1] > rows[0][0]
    const own: Standing = some ? { level: block.level, from: rows[0]![0], to: rows[0]![0] + 1 } : { level: block.level, from: 0, to: 0 }
    const said: Parameters<StatementRun['remark']>[] = []
    const laid = layStatement(block, {
      data: values.data,
      rows,
      language: values.language,
      calendar: values.options.calendar,
      evaluate: typed => String(values.evaluate(typed)(own) ?? ''),
      print: text => values.print(text)(own),
      remark: (...remark) => said.push(remark),
    })
    known.set(key, (found = { laid, said }))
  }
  const help = wideRemedies(block.block, layout.page)
  found.laid.table.wideRemedies = help
  for (const [name, sentence, { kind, row } = {}] of found.said)
    remarks.count(name, {
      kind: kind ?? 'accounts',
      block: block.block.id,
      ...(row ? { row } : {}),
      part: 'block',
      sentence,
      remedies: kind ? help : [],
    })
  return found.laid
}

/** Works out a statement and makes it a table of literal figures, which is broken over pages and written to sheets like any other. */
function layStatement(prepared: PreparedStatement, run: StatementRun): LaidStatement {
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
        ? `Total ${decapitalised(account.name)}`
        : block.codes
          ? `${account.code}  ${account.name}`
          : account.name
      : total
        ? `Total ${decapitalised(captions.get(line.id)!)}${mark}`
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
