import { readable } from '../catalog/types'
import { statementsOf } from '../dataset/ledgerSql'
import type { LevelInfo } from '../dataset/levels'
import type { DataRecords } from '../dataset/records'
import { blocksOf } from '../definition/layout'
import type { TieFigure, TieOut } from '../definition/tieOutTypes'
import type { ReportDefinition } from '../definition/types'
import { checkFormula } from '../formula/check'
import { compileFormula } from '../formula/evaluate'
import { holdsFigures } from '../statement/columns'
import { singleValue } from '../compose/text'
import { compareDecimals, type Decimal, isZero } from '../value/decimal'

type Suggestion = Omit<TieOut, 'id'>

/** A figure as text, whatever order its members have come back in from a store. */
const told = (figure: TieFigure) => JSON.stringify(Object.entries(figure).sort(([a], [b]) => a < b ? -1 : 1))
/** Two equalities are the same thing where their figures are. */
const same = (a: Suggestion, b: Suggestion) => (told(a.left) === told(b.left) && told(a.right) === told(b.right)) || (told(a.left) === told(b.right) && told(a.right) === told(b.left))

/**
 * Equalities that should hold, found from what a report is: a balance sheet balances, cash changes as the bank says, debits equal credits, a table prints all that its records come to;
 * and from the rows at hand: totals of fields that come to the same figure, such as what is open and the balance of its control account.
 */
export function suggestTieOuts(report: ReportDefinition, levels: readonly LevelInfo[], records: DataRecords | undefined): Suggestion[] {
  const main = report.dataSets[0]!.name
  const formula = (text: string): TieFigure => ({ is: 'formula', dataSet: main, formula: text })
  const found: Suggestion[] = []
  for (const block of statementsOf(report)) {
    const column = block.columns.find(holdsFigures)
    if (!column) continue
    const id = column.repeat ? `${column.id}#1` : column.id
    const pairs: [string, string, string][] = [['totalAssets', 'totalBoth', 'The balance sheet balances'], ['change', 'bank', 'Cash changes as the bank accounts say']]
    for (const [left, right, name] of pairs) {
      if ([left, right].every(line => block.lines.some(each => each.id === line))) found.push({ name, left: { is: 'line', statement: block.id, line: left, column: id }, right: { is: 'line', statement: block.id, line: right, column: id }, tolerance: '0' })
    }
    if (levels[0]?.definition.name === block.level) {
      const posted = block.columns.some(each => each.kind === 'budget') ? ', where: version = ""' : ''
      found.push({ name: 'Debits equal credits', left: formula(`sum(debit${posted})`), right: formula(`sum(credit${posted})`), tolerance: '0' })
    }
  }
  for (const block of report.layouts.flatMap(blocksOf)) {
    if (block.kind !== 'table') continue
    for (const row of block.rows.filter(each => each.kind === 'end').slice(0, 1)) {
      for (const [column, cell] of Object.entries(row.cells)) {
        const own = singleValue(cell.text)?.formula
        const level = levels.find(each => each.name === block.level)
        const inner = own && /^sum\(([\w.]+)\)$/.exec(own)?.[1]
        if (!inner || !level?.fields.has(inner)) continue
        found.push({ name: `“${column}” adds up to all ${readable(level.name).toLowerCase()} of the source`, left: { is: 'total', table: block.id, column }, right: formula(level.index ? `sum(${level.name}.${inner})` : `sum(${inner})`), tolerance: '0' })
      }
    }
  }
  if (records) found.push(...equalTotals(levels, records, formula))
  const known = report.tieOuts ?? []
  return found.filter((each, index) => !known.some(other => same(each, other)) && found.findIndex(other => same(each, other)) === index).slice(0, 12)
}

/** Totals of money fields of different names that come to the same figure in the rows at hand. */
function equalTotals(levels: readonly LevelInfo[], records: DataRecords, formula: (text: string) => TieFigure): Suggestion[] {
  const totals: { text: string, words: string, value: Decimal }[] = []
  for (const level of levels) {
    for (const field of level.fields.values()) {
      if (field.record || field.type !== 'number' || field.role !== 'measure' || !(field.path in records.levels[level.index]!.columns)) continue
      const text = level.index ? `sum(${level.name}.${field.path})` : `sum(${field.path})`
      try {
        const typed = checkFormula(text, { levels, level: 0, parameters: {} })
        const value = compileFormula(typed, { levels, data: records, parameters: {}, today: 0 })({ level: 0, from: 0, to: records.levels[0]!.count }) as Decimal | null
        if (value && !isZero(value)) totals.push({ text, words: field.caption.toLowerCase(), value })
      } catch {
        // a field that cannot be totalled is no half of an equality
      }
    }
  }
  return totals.flatMap((one, index) => totals.slice(index + 1).filter(other => compareDecimals(one.value, other.value) === 0)
    .map(other => ({ name: `${one.words.charAt(0).toUpperCase()}${one.words.slice(1)} = ${other.words}`, left: formula(one.text), right: formula(other.text), tolerance: '0' })))
}
