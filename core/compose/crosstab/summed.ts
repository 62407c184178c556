import type { Catalog } from '../../books/catalog'
import { isChart } from '../../definition/blocks/chart'
import { type AxisGroup, type CrosstabBlock, isCrosstab } from '../../definition/blocks/crosstab'
import type { Block } from '../../definition/blocks/block'
import type { CalculatedDefinition } from '../../definition/levels'
import type { LayoutDefinition, ReportDefinition } from '../../definition/report'
import { edges } from '../../definition/walk'
import { checkFormula } from '../../formula/check'
import { totalledCurrency } from '../../formula/currency'
import { totalFunctions } from '../../formula/functions'
import { type Expression, FormulaError, parseFormula, pathsOf, pathText } from '../../formula/syntax'
import type { Scope, Typed } from '../../formula/typed'
import { baseOf } from '../../model/derive'
import { blankLevel } from '../../definition/edits/ownTables'
import { type AssembledReport, assembleReport } from '../assemble'
import { kindOf } from '../blocks/registry'
import type { PreparedGroup } from '../prepared'
import { checkText } from '../text'
import { groupCaption, measureCaption, type PreparedCrosstab } from './prepare'

/** What cannot be worked out from groups that the source has added up: the records themselves are read then. */
class NotSummed extends Error {}

/** A report over groups that the source adds up, instead of over the records. */
export interface SummedReport {
  definition: ReportDefinition
  report: AssembledReport
}

const known = new WeakMap<AssembledReport, SummedReport | 'none'>()

/**
 * A report that prints one crosstab and nothing else of its records, as one over a summary by the groups of both axes: the source adds up,
 * and what goes to the program is a row for each pair of innermost groups. Nothing where a figure of it could not be worked out from
 * those: a distinct count, a median, what is printed by currency, a total of a level above. Margins are added up from these rows as they
 * would be from the records, so that they are the same figures.
 */
export function summedReport(definition: ReportDefinition, catalog: Catalog, report: AssembledReport): SummedReport | undefined {
  let found = known.get(report)
  if (!found) {
    try {
      found = summed(definition, catalog, report)
    } catch (error) {
      if (!(error instanceof NotSummed) && !(error instanceof FormulaError)) throw error
      found = 'none'
    }
    known.set(report, found)
  }
  return found === 'none' ? undefined : found
}

function summed(definition: ReportDefinition, catalog: Catalog, report: AssembledReport): SummedReport {
  const { layoutDefinition: layout } = report
  const crosstabs = layout.blocks.filter(isCrosstab)
  const [block] = crosstabs
  if (crosstabs.length !== 1 || !block) throw new NotSummed()
  aloneWithRecords(layout, block, report)
  const prepared = report.layout.blocks.find(each => each.block === block) as PreparedCrosstab
  const writer = new SummaryWriter(report, prepared)
  const groups = { rows: writer.axis(block.rows, prepared.rows), columns: writer.axis(block.columns, prepared.columns) }
  const measures = prepared.measures.map(({ measure, typed, pattern }) => {
    const format = measure.format ?? pattern
    return {
      ...measure,
      formula: writer.formula(measure.formula, []),
      caption: measureCaption(measure, typed),
      ...(format ? { format } : {}),
    }
  })
  if (!measures.length || measures.length !== block.measures.length) throw new NotSummed()
  const { base, left } = baseOf(report.tree.levels, prepared.level)
  if (left.length) throw new NotSummed()
  const own: CrosstabBlock = {
    ...block,
    level: cells,
    rows: groups.rows.map(each => each.group),
    columns: groups.columns.map(each => each.group),
    measures,
  }
  const columns = [...writer.by, ...writer.measures].map(each => each.name)
  const made: ReportDefinition = {
    ...withoutTies(definition),
    dataSets: [{ ...definition.dataSets[0]!, fields: {}, root: { ...blankLevel(cells, `@${cells}`), fields: columns } }],
    tables: [...(definition.tables ?? []), { kind: 'summary', name: cells, base, by: writer.by, measures: writer.measures }],
    layouts: [{ ...layout, blocks: layout.blocks.map(each => (each === block ? own : each)) }],
    layout: layout.name,
  }
  const assembled = assembleReport(made, catalog)
  if (assembled.tree.problems.length || assembled.layout.problems.length) throw new NotSummed()
  const fresh = assembled.layout.blocks.find(each => each.block === own) as PreparedCrosstab
  // groups of records are told apart by the keys of these, which stand in columns of their own
  for (const axis of ['rows', 'columns'] as const)
    fresh[axis].forEach((group, at) => {
      const { key, code } = groups[axis][at]!
      if (key.length) group.key = key
      if (code) group.code = code
      for (const path of [...key, ...(code ? [code] : [])]) assembled.layout.used[0]!.add(path)
    })
  return { definition: made, report: assembled }
}

/** Name of the level, and of the summary that it reads. */
const cells = 'summed_cells'

function withoutTies({ tieOuts: _, ...rest }: ReportDefinition): ReportDefinition {
  return rest
}

/** Nothing beside the crosstab may speak of records: only of answers, pages and the day. */
function aloneWithRecords(layout: LayoutDefinition, crosstab: CrosstabBlock, { parameterTypes, layout: prepared }: AssembledReport): void {
  const scope: Scope = { levels: [], level: -1, parameters: parameterTypes, page: true }
  const plain = (formula: string) => void checkFormula(formula, scope)
  const inText = (text: string) => void checkText(text, scope, prepared.language)
  const others: Block[] = [...edges.flatMap(edge => layout[edge] ?? []), ...layout.blocks.filter(each => each !== crosstab)]
  for (const block of others) {
    if (isChart(block) ? block.of !== crosstab.id : 'level' in block || 'blocks' in block) throw new NotSummed()
    const { texts, formulas } = kindOf(block).wordings(block)
    texts.forEach(inText)
    formulas.forEach(plain)
  }
  if (prepared.blocks.some(each => each.printsTies)) throw new NotSummed()
  if (layout.documentName) inText(layout.documentName)
  if (crosstab.showWhen) plain(crosstab.showWhen)
}

/** Dates of a stretch stand for all of them: the source groups by one. */
const stretches: Partial<Record<NonNullable<AxisGroup['step']>, (day: string) => string>> = {
  month: day => `monthStart(${day})`,
  quarter: day => `quarterEnd(${day})`,
  year: day => `yearEnd(${day})`,
  week: day => `weekEnd(${day})`,
}
/** Totals that can be worked out from those of groups, and as what. */
const outer: Readonly<Record<string, string>> = { sum: 'sum', count: 'sum', min: 'min', max: 'max' }

/** Writes formulas over records anew: over the columns of a summary, which it gathers. */
class SummaryWriter {
  readonly by: CalculatedDefinition[] = []
  readonly measures: CalculatedDefinition[] = []
  private readonly named = new Map<string, string>()
  private readonly scope: Scope

  constructor(
    private readonly report: AssembledReport,
    private readonly prepared: PreparedCrosstab,
  ) {
    const { tree, parameterTypes } = report
    this.scope = { levels: tree.levels, level: prepared.level, parameters: parameterTypes }
  }

  /** Groups by columns of the summary, with the columns that hold their keys and codes. */
  axis(groups: readonly AxisGroup[], prepared: readonly PreparedGroup[]): { group: AxisGroup; key: string[]; code?: string }[] {
    if (groups.length !== prepared.length) throw new NotSummed()
    return groups.map((group, depth) => {
      const { by, key, code } = prepared[depth]!
      if (group.edges?.length || by.type === 'moment') throw new NotSummed()
      const around = groups.slice(0, depth).map(each => each.id)
      const stretch = group.step && stretches[group.step]
      const text = this.moved(group.by)
      const level = by.is === 'field' ? by.level : -1
      const paths = key === 'ancestor' ? this.report.tree.levels[level]!.key : (key ?? [])
      const { order, top } = group
      return {
        group: {
          ...group,
          by: this.column(stretch ? stretch(text) : text),
          caption: groupCaption(group, by),
          order: { ...order, ...(order.total ? { total: this.formula(order.total, around) } : {}) },
          ...(top ? { top: { ...top, total: this.formula(top.total, around) } } : {}),
          ...(group.having ? { having: this.formula(group.having, around) } : {}),
        },
        key: paths.map(path => this.column(this.pathAt(level, path))),
        ...(code ? { code: this.column(this.pathAt(level, code)) } : {}),
      }
    })
  }

  /** A formula over totals of records, as one over totals of groups. */
  formula(text: string, groups: readonly string[]): string {
    const scope: Scope = { ...this.scope, groups, row: groups.length - 1 }
    const cuts: { from: number; to: number; text: string }[] = []
    const visit = (node: Expression): void => {
      if (node.is === 'call' && totalFunctions[node.name]) {
        cuts.push({ from: node.from, to: node.to, text: this.total(text.slice(node.from, node.to), node.name, scope) })
        return
      }
      if (node.is === 'path' && node.names[0] !== 'param') throw new NotSummed()
      if (node.is === 'call' && ['running', 'share', 'rank', 'has', 'carried'].includes(node.name)) throw new NotSummed()
      partsOfExpression(node).forEach(visit)
    }
    visit(parseFormula(text))
    return cuts.sort((a, b) => b.from - a.from).reduce((now, { from, to, text: own }) => now.slice(0, from) + own + now.slice(to), text)
  }

  private total(text: string, name: string, scope: Scope): string {
    const typed: Typed = checkFormula(text, scope)
    if (typed.is !== 'total' || typed.level !== this.prepared.level || typed.over !== undefined || totalledCurrency(typed))
      throw new NotSummed()
    // text that is lowest or highest has an order of its own
    if (!outer[name] || (typed.type !== 'number' && typed.type !== 'date')) throw new NotSummed()
    return `${outer[name]}(${this.measure(this.moved(text))})`
  }

  private column(formula: string): string {
    return this.put(this.by, 'group', formula)
  }

  private measure(formula: string): string {
    return this.put(this.measures, 'total', formula)
  }

  private put(into: CalculatedDefinition[], word: string, formula: string): string {
    const key = `${word} ${formula}`
    let name = this.named.get(key)
    if (!name) {
      name = `${word}_${into.length + 1}`
      into.push({ name, formula })
      this.named.set(key, name)
    }
    return name
  }

  /** A field of the level or of one above, as it is called in the base of the summary. */
  private pathAt(level: number, path: string): string {
    const { levels } = this.report.tree
    const field = levels[level]?.fields.get(path)
    if (!field || field.nested || field.inSql === false) throw new NotSummed()
    const names: string[] = []
    for (let at = this.prepared.level; at !== level; at = levels[at]!.parent) {
      if (at < 0) throw new NotSummed()
      names.push(levels[levels[at]!.parent]!.name)
    }
    // what is worked out on a level above is not known below
    if (names.length && (field.formula || field.total)) throw new NotSummed()
    return pathText([...names, path].join('.'))
  }

  /** A formula as it reads in the base of the summary. */
  private moved(text: string): string {
    const { fields } = pathsOf(parseFormula(text))
    return [...fields]
      .sort((a, b) => b.from - a.from)
      .reduce((now, { names, from, to }) => {
        if (names[0] === 'param') return now
        const own = this.scope.levels[this.prepared.level]!
        if (names.length === 1 && names[0] === own.name && !own.fields.has(names[0])) return now
        const typed = checkFormula(text.slice(from, to), this.scope)
        if (typed.is !== 'field') throw new NotSummed()
        return `${now.slice(0, from)}${this.pathAt(typed.level, typed.path)}${now.slice(to)}`
      }, text)
  }
}

function partsOfExpression(node: Expression): Expression[] {
  switch (node.is) {
    case 'call':
      return node.arguments.map(each => each.value)
    case 'binary':
      return [node.left, node.right]
    case 'negative':
    case 'not':
      return [node.value]
    case 'in':
      return [node.value, ...node.list]
    case 'between':
      return [node.value, node.low, node.high]
    default:
      return []
  }
}
