import { followLine } from './chart'
import { blocksOf } from '../walk'
import { changeBlock, type TextPlace } from './layout'
import { freeId } from '../names'
import { isStatementBlock, type StatementBlock, type StatementColumn, type StatementLine } from '../blocks/statement'
import type { ReportDefinition } from '../report'

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
