import equal from 'fast-deep-equal'
import { isTable } from '../definition/blocks/table'
import { readable } from '../catalog/types'
import { statementsOf } from '../model/ledger'
import type { LevelInfo } from '../formula/typed'
import type { DataRecords } from '../value/records'
import { blocksOf } from '../definition/walk'
import type { TieFigure, TieOut } from '../definition/tieOuts'
import type { ReportDefinition } from '../definition/report'
import { checkFormula } from '../formula/check'
import { compileFormula } from '../formula/evaluate'
import { holdsFigures } from '../statement/columns'
import { singleValue } from '../value/textParts'
import { pathText } from '../formula/syntax'
import { compareDecimals, type Decimal, isZero, toNumber, zero } from '../value/decimal'

type Suggestion = Omit<TieOut, 'id'>

/** A figure as text, whatever order its members have come back in from a store. */
const told = (figure: TieFigure) => JSON.stringify(Object.entries(figure).sort(([a], [b]) => (a < b ? -1 : 1)))
/** Two equalities are the same thing where their figures are. */
const same = (a: Suggestion, b: Suggestion) =>
  (told(a.left) === told(b.left) && told(a.right) === told(b.right)) || (told(a.left) === told(b.right) && told(a.right) === told(b.left))

/**
 * Equalities that should hold, found from what a report is: a balance sheet balances, cash changes as the bank says, debits equal
 * credits, a result is that of the trial balance, branches add
 * up, a table prints all its records and all that they come to; and from the rows at hand: documents that are the sum of their parts,
 * and, where `whole` says that these are all rows, totals
 * of fields that come to the same figure, such as what is open and the balance of its control account.
 */
export function suggestTieOuts(
  report: ReportDefinition,
  levels: readonly LevelInfo[],
  records: DataRecords | undefined,
  whole: boolean,
): Suggestion[] {
  const main = report.dataSets[0]!.name
  const formula = (text: string): TieFigure => ({ is: 'formula', dataSet: main, formula: text })
  const found: Suggestion[] = []
  for (const block of statementsOf(report)) {
    const column = block.columns.find(holdsFigures)
    if (!column) continue
    const id = column.repeat ? `${column.id}#1` : column.id
    const pairs: [string, string, string][] = [
      ['totalAssets', 'totalBoth', 'The balance sheet balances'],
      ['change', 'bank', 'Cash changes as the bank accounts say'],
    ]
    for (const [left, right, name] of pairs) {
      if ([left, right].every(line => block.lines.some(each => each.id === line)))
        found.push({
          name,
          left: { is: 'line', statement: block.id, line: left, column: id },
          right: { is: 'line', statement: block.id, line: right, column: id },
          tolerance: '0',
        })
    }
    const line = (line: string, column: string): TieFigure => ({ is: 'line', statement: block.id, line, column })
    const total = block.columns.find(each => each.kind === 'total') ?? column
    const result = ['result', 'resultOfYear', 'resultOfPeriod'].find(each => block.lines.some(own => own.id === each))
    if (result)
      found.push({
        name: 'The result is that of the trial balance',
        left: line(result, total.id),
        right: { is: 'trial', statement: block.id, column: total.id, types: ['income', 'expense'] },
        tolerance: '0',
      })
    if (block.lines.some(each => each.id === 'totalAssets'))
      found.push({
        name: 'Assets are those of the trial balance',
        left: line('totalAssets', column.id),
        right: { is: 'trial', statement: block.id, column: column.id, types: ['asset'] },
        tolerance: '0',
      })
    const apart = block.columns.find(each => each.repeat?.over === 'branch' || each.repeat?.over === 'department')
    const together = apart && block.columns.find(each => !each.repeat && each.kind === apart.kind && equal(each.span, apart.span))
    const shown = result ?? block.lines.findLast(each => each.kind === 'sum' || each.kind === 'accounts')?.id
    if (apart && together && shown)
      found.push({
        name: apart.repeat!.over === 'branch' ? 'The branches add up to all' : 'The departments add up to all',
        left: line(shown, apart.id),
        right: line(shown, together.id),
        tolerance: '0',
      })
    if (levels[0]?.definition.name === block.level) {
      const posted = block.columns.some(each => each.kind === 'budget') ? ', where: version = ""' : ''
      found.push({
        name: 'Debits equal credits',
        left: formula(`sum(debit${posted})`),
        right: formula(`sum(credit${posted})`),
        tolerance: '0',
      })
    }
  }
  for (const level of levels) {
    for (const ageing of level.definition.ageings ?? []) {
      const path = level.index ? `${pathDown(levels, level)}.` : ''
      found.push({
        name: `The ages of ${ageing.name} add up`,
        left: formula(ageing.columns.map((_, index) => `sum(${path}${ageing.name}_${index})`).join(' + ')),
        right: formula(`sum(${path}${ageing.amount})`),
        tolerance: '0',
      })
    }
  }
  for (const block of report.layouts.flatMap(blocksOf)) {
    // groups that are left out, or put together, print less on purpose
    if (!isTable(block) || block.groups.some(group => group.having || group.top)) continue
    const own = levels.find(each => each.name === block.level)
    if (own && block.rows.some(row => row.kind === 'line'))
      found.push({
        name: `Each record of ${own.caption.toLowerCase()} is printed`,
        left: { is: 'rows', table: block.id },
        right: formula(`count(${pathDown(levels, own)})`),
        tolerance: '0',
      })
    for (const row of block.rows.filter(each => each.kind === 'end').slice(0, 1)) {
      for (const [column, cell] of Object.entries(row.cells)) {
        const own = singleValue(cell.text)?.formula
        const level = levels.find(each => each.name === block.level)
        const inner = own && /^sum\(([\w.]+)\)$/.exec(own)?.[1]
        if (!inner || !level?.fields.has(inner)) continue
        found.push({
          name: `“${column}” adds up to all ${readable(level.name).toLowerCase()} of the source`,
          left: { is: 'total', table: block.id, column },
          right: formula(level.index ? `sum(${pathDown(levels, level)}.${inner})` : `sum(${inner})`),
          tolerance: '0',
        })
      }
    }
  }
  if (records) found.push(...documentSums(levels, records, formula))
  if (records && whole) found.push(...equalTotals(levels, records, formula))
  const known = report.tieOuts ?? []
  return found
    .filter((each, index) => !known.some(other => same(each, other)) && found.findIndex(other => same(each, other)) === index)
    .slice(0, 12)
}

/** A level as formulas on the root speak of it: by the names of the levels down to it. */
function pathDown(levels: readonly LevelInfo[], level: LevelInfo): string {
  return level.parent > 0 ? `${pathDown(levels, levels[level.parent]!)}.${level.name}` : level.name
}

/** Terms that are tried; three to the power of them are the ways to add them up. */
const mostTerms = 9

/**
 * A figure of the documents that is, in each of them, the sum of figures of its details and of other figures of its own: total = lines +
 * taxes + freight − discount.
 */
function documentSums(levels: readonly LevelInfo[], records: DataRecords, formula: (text: string) => TieFigure): Suggestion[] {
  const count = Math.min(200, records.levels[0]!.count)
  if (count < 5) return []
  const terms: { text: string; words: string; own: boolean; level: number; values: number[] }[] = []
  for (const level of levels.filter(each => each.index === 0 || each.parent === 0)) {
    for (const field of level.fields.values()) {
      if (
        field.record ||
        field.type !== 'number' ||
        field.role !== 'measure' ||
        field.column.scale === 0 ||
        !(field.path in records.levels[level.index]!.columns)
      )
        continue
      const text = `sum(${level.index ? `${level.name}.` : ''}${pathText(field.path)})`
      try {
        const evaluate = compileFormula(checkFormula(text, { levels, level: 0, parameters: {} }), {
          levels,
          data: records,
          parameters: {},
          today: 0,
        })
        const values = Array.from({ length: count }, (_, row) =>
          Math.round(toNumber((evaluate({ level: 0, from: row, to: row + 1 }) as Decimal | null) ?? zero) * 1e4),
        )
        if (values.some(value => value !== 0))
          terms.push({
            text,
            words: level.index ? `${field.caption.toLowerCase()} of ${level.name}` : field.caption.toLowerCase(),
            own: level.index === 0,
            level: level.index,
            values,
          })
      } catch {
        // a field that cannot be totalled is no part of a sum
      }
    }
  }
  const size = (values: readonly number[]) => values.reduce((sum, value) => sum + Math.abs(value), 0)
  // the figure that stands for the whole document is the largest
  for (const target of terms.filter(term => term.own).sort((a, b) => size(b.values) - size(a.values))) {
    const tried = [...terms.filter(term => !term.own), ...terms.filter(term => term.own && term !== target)].slice(0, mostTerms)
    const signs = waysToAddUp(target.values, tried)
    if (!signs) continue
    const parts = tried.flatMap((term, index) => (signs[index] ? [{ ...term, sign: signs[index] }] : []))
    return [
      {
        name:
          `${readable(target.words)} = ` +
          `${parts.map(({ words, sign }, index) => `${sign < 0 ? '− ' : index ? '+ ' : ''}${words}`).join(' ')}`,
        left: formula(target.text),
        right: formula(parts.map(({ text, sign }, index) => `${sign < 0 ? (index ? '- ' : '-') : index ? '+ ' : ''}${text}`).join(' ')),
        tolerance: '0',
      },
    ]
  }
  return []
}

/**
 * Which terms, added (1) or taken off (−1), come to the target in every record: of all ways the one that speaks of most detail levels,
 * then the shortest.
 */
function waysToAddUp(target: readonly number[], terms: readonly { level: number; values: readonly number[] }[]): number[] | undefined {
  let best: { signs: number[]; levels: number; used: number } | undefined
  const visit = (index: number, signs: number[], first: number): void => {
    if (index < terms.length) {
      for (const sign of [0, 1, -1]) visit(index + 1, [...signs, sign], first + sign * terms[index]!.values[0]!)
      return
    }
    if (first !== target[0]) return
    const levels = new Set(terms.flatMap((term, place) => (signs[place] && term.level ? [term.level] : []))).size
    const used = signs.filter(Boolean).length
    if (!levels || (best && (levels < best.levels || (levels === best.levels && used >= best.used)))) return
    if (
      target.every((value, row) => value === signs.reduce((sum, sign, place) => (sign ? sum + sign * terms[place]!.values[row]! : sum), 0))
    )
      best = { signs, levels, used }
  }
  visit(0, [], 0)
  return best?.signs
}

/** Totals of money fields of different names that come to the same figure in the rows at hand. */
function equalTotals(levels: readonly LevelInfo[], records: DataRecords, formula: (text: string) => TieFigure): Suggestion[] {
  const totals: { text: string; words: string; value: Decimal }[] = []
  for (const level of levels) {
    for (const field of level.fields.values()) {
      if (field.record || field.type !== 'number' || field.role !== 'measure' || !(field.path in records.levels[level.index]!.columns))
        continue
      const text = level.index ? `sum(${level.name}.${field.path})` : `sum(${field.path})`
      try {
        const typed = checkFormula(text, { levels, level: 0, parameters: {} })
        const value = compileFormula(typed, { levels, data: records, parameters: {}, today: 0 })({
          level: 0,
          from: 0,
          to: records.levels[0]!.count,
        }) as Decimal | null
        if (value && !isZero(value)) totals.push({ text, words: field.caption.toLowerCase(), value })
      } catch {
        // a field that cannot be totalled is no half of an equality
      }
    }
  }
  return totals.flatMap((one, index) =>
    totals
      .slice(index + 1)
      .filter(other => compareDecimals(one.value, other.value) === 0)
      .map(other => ({
        name: `${one.words.charAt(0).toUpperCase()}${one.words.slice(1)} = ${other.words}`,
        left: formula(one.text),
        right: formula(other.text),
        tolerance: '0',
      })),
  )
}
