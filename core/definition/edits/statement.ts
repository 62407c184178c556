import { followLine } from './chart'
import { blocksOf } from '../walk'
import { changeBlock, type TextPlace } from './layout'
import { freeId } from '../names'
import type { LedgerMap } from '../../books/ledger'
import type { LedgerTable } from '../tables'
import { isStatementBlock, type StatementBlock, type StatementColumn, type StatementLine } from '../blocks/statement'
import type { PanelBlock } from '../blocks/panel'
import type { ReportDefinition } from '../report'

/** Edits of statements: the books that they read, their lines, and their columns. */

const parameter = 'period'

/**
 * A report that reads the books: the table, a data set on it and a parameter for the period are added where they are missing. Comes back
 * with the name of the level.
 */
export function addBooks(report: ReportDefinition): { report: ReportDefinition; level: string; period: string } {
  const known = report.tables?.find(each => each.kind === 'ledger')
  const taken = [...report.dataSets.map(each => each.name), ...(report.tables?.map(each => each.name) ?? [])]
  const name = known?.name ?? freeId('books', taken, true)
  const period =
    report.parameters.find(each => each.kind === 'period')?.name ??
    freeId(
      parameter,
      report.parameters.map(each => each.name),
      true,
    )
  const held = report.dataSets.find(each => each.root.table === `@${name}`)
  const level =
    held?.root.name ??
    freeId(
      'figures',
      report.dataSets.flatMap(each => each.root.name),
      true,
    )
  return {
    level,
    period: `param.${period}`,
    report: {
      ...report,
      ...(known ? {} : { tables: [...(report.tables ?? []), { kind: 'ledger', name, filters: [] }] }),
      ...(report.parameters.some(each => each.kind === 'period')
        ? {}
        : {
            parameters: [
              ...report.parameters,
              { name: period, label: 'Period', kind: 'period', required: true, default: 'period(today())' },
            ],
          }),
      ...(held
        ? {}
        : {
            dataSets: [
              ...report.dataSets,
              {
                name: freeId('ledger', taken, true),
                source: report.dataSets[0]?.source ?? '',
                fields: {},
                root: {
                  name: level,
                  caption: 'Figures of the books',
                  table: `@${name}`,
                  on: [],
                  fields: ['account', 'account_name', 'period', 'debit', 'credit'],
                  related: [],
                  details: [],
                  filters: [],
                  sort: [
                    { field: 'account', descending: false },
                    { field: 'period', descending: false },
                  ],
                },
              },
            ],
          }),
    },
  }
}

const freeParameter = (report: ReportDefinition, wanted: string) =>
  freeId(
    wanted,
    report.parameters.map(each => each.name),
    true,
  )
const ledgerTableOf = (report: ReportDefinition) => report.tables?.find((each): each is LedgerTable => each.kind === 'ledger')

/** Asks for the branches that count, unless the report does: a parameter, and the filter of the books. */
export function askBranches(report: ReportDefinition, books: LedgerMap): ReportDefinition {
  const unit = books.branches
  const table = ledgerTableOf(report)
  if (!unit || !table || report.parameters.some(each => each.choices?.table === unit.table)) return report
  const name = freeParameter(report, 'branches')
  return filterBooks(
    {
      ...report,
      parameters: [
        ...report.parameters,
        { name, label: 'Branches', kind: 'choices', required: false, choices: { table: unit.table, value: unit.code, label: unit.name } },
      ],
    },
    table,
    `branch in (param.${name})`,
  )
}

/** Asks for the first and the last account that count, unless the report does. */
export function askAccounts(report: ReportDefinition): ReportDefinition {
  const table = ledgerTableOf(report)
  if (!table || table.filters.some(filter => /\baccount\s*[<>]/.test(filter))) return report
  const from = freeParameter(report, 'fromAccount')
  const asked: ReportDefinition = {
    ...report,
    parameters: [...report.parameters, { name: from, label: 'From account', kind: 'text', required: false }],
  }
  const to = freeParameter(asked, 'toAccount')
  return filterBooks(
    { ...asked, parameters: [...asked.parameters, { name: to, label: 'To account', kind: 'text', required: false }] },
    table,
    `account >= param.${from}`,
    `account <= param.${to}`,
  )
}

/**
 * Asks for a day instead of a period: what is posted up to it counts, in the period in which it lies. Spans and titles that spoke of the
 * period speak of the day.
 */
export function askDay(report: ReportDefinition): ReportDefinition {
  const table = ledgerTableOf(report)
  const period = report.parameters.find(each => each.kind === 'period')
  if (!table || !period || table.filters.some(filter => /\bdate\s*<=/.test(filter))) return report
  const name = freeParameter(report, 'asOf')
  const anchor = `period(param.${name})`
  const spoken = (text: string) =>
    text
      .replaceAll(`periodEnd(param.${period.name})`, `param.${name}`)
      .replaceAll(`param.${period.name}.label`, `param.${name} | d MMMM y`)
      .replace(new RegExp(`param\\.${period.name}(?![\\w.])`, 'g'), anchor)
  // whatever speaks of the period: spans, titles, texts, rules
  const follow = <T>(value: T): T =>
    typeof value === 'string'
      ? (spoken(value) as T)
      : Array.isArray(value)
        ? (value.map(follow) as T)
        : value && typeof value === 'object'
          ? (Object.fromEntries(Object.entries(value).map(([key, each]) => [key, follow(each)])) as T)
          : value
  const layouts = follow(report.layouts).map(layout => ({
    ...layout,
    blocks: layout.blocks.map(block =>
      !isStatementBlock(block)
        ? block
        : {
            // a balance says its day, where it is the one that was asked for
            ...block,
            columns: block.columns.map(column =>
              column.kind === 'balance' && !column.title && !column.repeat && column.span?.unit === 'period' && !column.span.back
                ? { ...column, title: `{{ param.${name} | d MMM y }}` }
                : column,
            ),
          },
    ),
  }))
  const parameters = report.parameters.map(each =>
    each === period ? { name, label: 'As of', kind: 'date' as const, required: true, default: 'today()' } : each,
  )
  return filterBooks(
    { ...report, layouts, parameters, ...(report.tieOuts ? { tieOuts: follow(report.tieOuts) } : {}) },
    table,
    `date <= param.${name}`,
  )
}

/** Asks for the version of the budget, unless the report does; comes back with the parameter's name, empty where there are no versions. */
export function askVersion(report: ReportDefinition, books: LedgerMap): { report: ReportDefinition; name: string } {
  const { budgets, versions = [] } = books
  const known = report.parameters.find(each => each.kind === 'choice' && each.choices?.table === budgets?.table)
  if (known || !budgets?.version) return { report, name: known?.name ?? '' }
  const name = freeParameter(report, 'version')
  return {
    name,
    report: {
      ...report,
      parameters: [
        ...report.parameters,
        {
          name,
          label: 'Budget version',
          kind: 'choice',
          required: false,
          ...(versions[0] ? { default: JSON.stringify(versions[0]) } : {}),
          choices: { table: budgets.table, value: budgets.version, label: budgets.version },
        },
      ],
    },
  }
}

function filterBooks(report: ReportDefinition, table: LedgerTable, ...filters: string[]): ReportDefinition {
  return {
    ...report,
    tables: report.tables!.map(each =>
      each.kind === 'ledger' && each.name === table.name ? { ...each, filters: [...each.filters, ...filters] } : each,
    ),
  }
}

/** Lines to be signed: who prepared the statement and who approved it. */
export function signaturePanel(id: string, width: number): PanelBlock {
  const half = Math.min(200, (width - 24) / 2)
  const line = (name: string, x: number, words: string): PanelBlock['items'] => [
    { kind: 'rule', id: `${name}Rule`, x, y: 22, width: half, thickness: 0.5, colour: '#6d655b' },
    { kind: 'text', id: name, x, y: 25, width: half, text: words, style: { named: 'small' } },
  ]
  return {
    kind: 'panel',
    id,
    height: 40,
    after: 0,
    items: [...line('prepared', 0, 'Prepared by, date'), ...line('approved', half + 24, 'Approved by, date')],
  }
}

/** Changes a statement, in whichever layout it stands. */
export function changeStatement(report: ReportDefinition, id: string, change: (block: StatementBlock) => StatementBlock): ReportDefinition {
  return changeBlock(report, id, block => (isStatementBlock(block) ? change(block) : block))
}

/** The settings of a statement as a whole. */
export function setStatement(report: ReportDefinition, id: string, change: Partial<StatementBlock>): ReportDefinition {
  return changeStatement(report, id, block => ({ ...block, ...change }))
}

export function statementNamed(report: ReportDefinition, id: string): StatementBlock | undefined {
  const found = report.layouts.flatMap(layout => blocksOf(layout)).find(block => block.id === id)
  return isStatementBlock(found) ? found : undefined
}

/** Puts a line after another, or first; it gets a word of its own by which formulas call it. */
export function addLine(report: ReportDefinition, id: string, line: Omit<StatementLine, 'id'>, after?: string): ReportDefinition {
  return changeStatement(report, id, block => {
    const at = after === undefined ? 0 : block.lines.findIndex(each => each.id === after) + 1
    const made: StatementLine = {
      ...line,
      id: freeId(
        wordOf(line.caption ?? line.kind),
        block.lines.map(each => each.id),
        true,
      ),
    }
    return { ...block, lines: [...block.lines.slice(0, at), made, ...block.lines.slice(at)] }
  })
}

/** Changes a line; one that is renamed is called by its new name in the formulas and sums that use it. */
export function setLine(report: ReportDefinition, id: string, line: string, change: Partial<StatementLine>): ReportDefinition {
  const free = change.id !== undefined && change.id !== line && !statementNamed(report, id)?.lines.some(each => each.id === change.id)
  return changeStatement(free ? followLine(report, id, line, change.id) : report, id, block => {
    const renamed =
      change.id !== undefined && change.id !== line && !block.lines.some(each => each.id === change.id) ? change.id : undefined
    const word = new RegExp(`(?<![\\p{L}\\p{N}_.\`"])${line}(?![\\p{L}\\p{N}_\`"])`, 'gu')
    const follow = (own: string | undefined) => (own === line ? renamed : own)
    return {
      ...block,
      lines: block.lines.map(each => {
        const own = each.id === line ? without({ ...each, ...change, id: renamed ?? line }) : each
        if (renamed === undefined) return own
        return {
          ...own,
          ...(own.formula ? { formula: own.formula.replace(word, renamed) } : {}),
          ...(own.from ? { from: follow(own.from)! } : {}),
          ...(own.to ? { to: follow(own.to)! } : {}),
        }
      }),
      columns:
        renamed === undefined ? block.columns : block.columns.map(column => (column.line === line ? { ...column, line: renamed } : column)),
    }
  })
}

/** What was set to nothing is left out. */
function without<T extends object>(value: T): T {
  return Object.fromEntries(Object.entries(value).filter(([, each]) => each !== undefined)) as T
}

export function removeLine(report: ReportDefinition, id: string, line: string): ReportDefinition {
  return changeStatement(followLine(report, id, line, undefined), id, block => ({
    ...block,
    lines: block.lines.filter(each => each.id !== line),
  }))
}

/** Moves a line so many places down (or up). */
export function moveLine(report: ReportDefinition, id: string, line: string, by: number): ReportDefinition {
  return changeStatement(report, id, block => ({ ...block, lines: moved(block.lines, line, by) }))
}

function moved<T extends { id: string }>(list: readonly T[], id: string, by: number): T[] {
  const from = list.findIndex(each => each.id === id)
  if (from < 0) return [...list]
  const rest = list.filter(each => each.id !== id)
  rest.splice(Math.max(0, Math.min(rest.length, from + by)), 0, list[from]!)
  return rest
}

export function addStatementColumn(
  report: ReportDefinition,
  id: string,
  column: Omit<StatementColumn, 'id'>,
  after?: string,
): ReportDefinition {
  return changeStatement(report, id, block => {
    const at = after === undefined ? block.columns.length : block.columns.findIndex(each => each.id === after) + 1
    const made: StatementColumn = {
      ...column,
      id: freeId(
        column.kind,
        block.columns.map(each => each.id),
        true,
      ),
    }
    return { ...block, columns: [...block.columns.slice(0, at), made, ...block.columns.slice(at)] }
  })
}

export function setStatementColumn(
  report: ReportDefinition,
  id: string,
  column: string,
  change: Partial<StatementColumn>,
): ReportDefinition {
  return changeStatement(report, id, block => ({
    ...block,
    columns: block.columns.map(each => (each.id === column ? without({ ...each, ...change }) : each)),
  }))
}

/** Takes a column out, and those that are worked out from it alone. */
export function removeStatementColumn(report: ReportDefinition, id: string, column: string): ReportDefinition {
  return changeStatement(report, id, block => {
    const gone = new Set([column])
    for (let before = -1; before !== gone.size;) {
      before = gone.size
      for (const each of block.columns)
        if (
          each.of?.length &&
          (each.kind === 'total' || each.kind === 'average' ? each.of.every(of => gone.has(of)) : each.of.some(of => gone.has(of)))
        )
          gone.add(each.id)
    }
    return {
      ...block,
      columns: block.columns
        .filter(each => !gone.has(each.id))
        .map(each => (each.of ? { ...each, of: each.of.filter(of => !gone.has(of)) } : each)),
    }
  })
}

export function moveStatementColumn(report: ReportDefinition, id: string, column: string, by: number): ReportDefinition {
  return changeStatement(report, id, block => ({ ...block, columns: moved(block.columns, column, by) }))
}

/** The line that a row of the page belongs to: its own, or one of its accounts. */
export const lineOfRow = (block: StatementBlock, row: string | undefined): StatementLine | undefined =>
  block.lines.find(each => each.id === row?.split(' ')[0])
/** The column that a place of the page belongs to: its own, or a copy of a repeated one. */
export const columnOfCell = (block: StatementBlock, cell: string | undefined): StatementColumn | undefined =>
  block.columns.find(each => each.id === cell?.split('#')[0])

/**
 * What is written at a place of a statement: a column's title, a line's caption, and at its figures which accounts it takes, or its
 * formula.
 */
export function statementText(block: StatementBlock, place: TextPlace): string | undefined {
  if (place.part === 'titles') return columnOfCell(block, place.cell) && (columnOfCell(block, place.cell)!.title ?? '')
  if (place.row?.startsWith('footnote ')) return block.footnotes?.find(each => `footnote ${each.id}` === place.row)?.text
  const line = lineOfRow(block, place.row)
  if (!line || line.kind === 'blank' || line.kind === 'rule' || line.kind === 'break') return undefined
  if (place.cell === 'caption') return line.caption ?? ''
  return line.kind === 'accounts' ? (line.accounts ?? '') : line.kind === 'formula' ? (line.formula ?? '') : undefined
}

export function setStatementText(report: ReportDefinition, block: StatementBlock, place: TextPlace, text: string): ReportDefinition {
  if (place.part === 'titles')
    return setStatementColumn(report, block.id, columnOfCell(block, place.cell)!.id, {
      title: text.trim() || undefined,
    } as Partial<StatementColumn>)
  if (place.row?.startsWith('footnote '))
    return changeStatement(report, block.id, found => ({
      ...found,
      footnotes: (found.footnotes ?? []).map(each => (`footnote ${each.id}` === place.row ? { ...each, text } : each)),
    }))
  const line = lineOfRow(block, place.row)!
  return setLine(
    report,
    block.id,
    line.id,
    place.cell === 'caption' ? { caption: text } : line.kind === 'accounts' ? { accounts: text } : { formula: text },
  )
}

/** A word out of a caption: “Cost of sales” → costOfSales. */
export function wordOf(caption: string): string {
  const words = caption
    .replace(/\{\{[^}]*\}\}/g, '')
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
  const word = words
    .slice(0, 4)
    .map((each, index) => (index ? each.charAt(0).toUpperCase() + each.slice(1).toLowerCase() : each.toLowerCase()))
    .join('')
  return /^\p{L}/u.test(word) ? word : `line${word}`
}
