import type { StatementBlock, StatementLine } from '../../definition/blocks/statement'
import type { LevelInfo, Typed } from '../../formula/typed'
import type { ThemeDefinition } from '../../definition/style'
import type { ReadyLine } from '../../statement/rounding'
import type { CheckedText } from '../text'
import type { LedgerMap } from '../../books/ledger'
import type { PreparedBlock } from '../prepared'
import type { PrepareScope, ProblemPlace } from '../prepareScope'
import { tableLevel } from '../../model/levels'
import { AccountsError, readAccounts } from '../../statement/accounts'
import { checkFormula } from '../../formula/check'
import { FormulaError } from '../../formula/syntax'
import { fieldsUsed } from '../../formula/parts'
import { columnOf } from '../../value/columns'
import type { DataRecords } from '../../value/records'
import { compileFormula } from '../../formula/evaluate'
import type { Decimal } from '../../value/decimal'

/** A statement with its formulas, choices of accounts and texts checked; its columns are found when the answers are known. */
export interface PreparedStatement extends PreparedBlock {
  kind: 'statement'
  block: StatementBlock
  x: number
  width: number
  theme: ThemeDefinition
  lines: (ReadyLine & { caption: CheckedText })[]
  titles: Map<string, CheckedText>
  anchors: Map<string, Typed>
  footnotes: { id: string; text: CheckedText }[]
  ledger?: LedgerMap
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
  'results',
  'result_of',
]

/** A level whose fields are the lines of a statement, so that formulas over them are formulas like any other. */
export function lineLevel(lines: readonly StatementLine[]): LevelInfo {
  const columns = lines
    .filter(line => line.kind === 'accounts' || line.kind === 'formula' || line.kind === 'sum')
    .map(line => ({ name: line.id, type: 'number' as const, databaseType: 'numeric', required: false }))
  return tableLevel({ schema: '', name: 'lines', columns, primaryKey: [], rowEstimate: 0 }, 'lines')
}

/** A statement with its formulas, accounts and texts checked; faults go to the scope. `under` is the level around it. */
export function prepareStatement(block: StatementBlock, level: number, under: number, scope: PrepareScope): PreparedStatement {
  const own = lineLevel(block.lines)
  const { ledger } = scope.surroundings
  const text = (source: string, at: ProblemPlace) => scope.text(source, scope.at(level), at)
  const lines = block.lines.map((line): PreparedStatement['lines'][number] => {
    const at = { block: block.id, row: line.id }
    const caption = text(line.caption ?? '', { ...at, cell: 'caption', place: 'text' })
    if (line.kind === 'accounts') {
      try {
        return { line, caption, takes: readAccounts(line.accounts ?? '') }
      } catch (error) {
        if (!(error instanceof AccountsError)) throw error
        scope.problem({ ...at, cell: 'caption', place: 'accounts', sentence: error.message, from: error.from, to: error.to })
        return { line, caption, takes: () => false }
      }
    }
    if (line.kind !== 'formula') return { line, caption }
    try {
      const typed = checkFormula(line.formula ?? '', { levels: [own], level: 0, parameters: scope.surroundings.parameters })
      if (typed.type !== 'number' && typed.type !== 'empty')
        throw new FormulaError('A line holds numbers; write a formula such as sales - cost.', 0, line.formula!.length)
      const needs = [...new Set(fieldsUsed(typed).map(field => field.path))]
      const addends = addedIn(typed)
      return { line, caption, needs, evaluate: evaluator(typed, own, needs), ...(addends ? { addends } : {}) }
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error
      scope.problem({ ...at, cell: 'caption', place: 'accounts', sentence: error.message, from: error.from, to: error.to })
      return { line, caption, needs: [] }
    }
  })
  const titles = new Map(
    block.columns.flatMap(column =>
      column.title ? [[column.id, text(column.title, { block: block.id, row: 'titles', cell: column.id, place: 'text' })] as const] : [],
    ),
  )
  const anchors = new Map(
    block.columns.flatMap(column =>
      [column.span?.anchor, column.span?.to, column.versionFrom].flatMap(source => {
        const typed =
          source === undefined
            ? undefined
            : scope.formula(source, scope.at(level), { block: block.id, row: 'titles', cell: column.id, place: 'text' }, false)
        return source !== undefined && typed ? [[source, typed] as const] : []
      }),
    ),
  )
  const footnotes = (block.footnotes ?? []).map(({ id, text: note }) => ({
    id,
    text: text(note, { block: block.id, row: `footnote ${id}`, cell: 'caption', place: 'text' }),
  }))
  return {
    kind: 'statement',
    block,
    level,
    showWhen: scope.rule(block, under),
    columnsByRecords: true,
    x: block.left,
    width: block.width || Math.max(24, scope.width - block.left),
    theme: scope.theme,
    lines,
    titles,
    anchors,
    footnotes,
    ...(ledger ? { ledger } : {}),
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

/** Is a block a statement? */
export const isStatement = (block: PreparedBlock): block is PreparedStatement => 'footnotes' in block

/** The statement of an id among blocks and those inside them. */
export function statementAmong(blocks: readonly PreparedBlock[], id?: string): PreparedStatement | undefined {
  for (const block of blocks) {
    if (isStatement(block) && (id === undefined || block.block.id === id)) return block
    const found = statementAmong(block.inner ?? [], id)
    if (found) return found
  }
  return undefined
}
