import { withOpenItems } from '../model/openItems'
import type { Catalog } from '../books/catalog'
import { type ReportModel, reportModel } from '../model/model'
import type { LevelInfo } from '../formula/typed'
import { checkFormula } from '../formula/check'
import { fieldsUsed } from '../formula/parts'
import { FormulaError } from '../formula/syntax'
import { blocksInside, edges } from '../definition/walk'
import { kindOf } from './blocks/registry'
import { speaksOf } from '../value/text'
import { textParts } from '../value/textParts'
import type { Block } from '../definition/blocks/block'
import type { ReportDefinition } from '../definition/report'
import type { LevelDefinition, RelatedDefinition } from '../definition/levels'

/** A place in a report that reads something. */
export interface Use {
  what:
    | 'level'
    | 'related record'
    | 'field'
    | 'filter'
    | 'sort'
    | 'calculated field'
    | 'ages'
    | 'child total'
    | 'measure'
    | 'stacked column'
    | 'parameter'
    | 'layout'
    | 'SQL text'
    | 'table of another source'
  name: string
}

/** A table, one of its columns, or a calculated field (by its name on a level of that table). */
export interface UseTarget {
  table: string
  column?: string
}

/** All places of a report that read a table of a source, or one of its columns; its model is made where nobody has it already. */
export function usesOf(report: ReportDefinition, catalog: Catalog, target: UseTarget, known?: ReportModel): Use[] {
  const definition = withOpenItems(report)
  const uses: Use[] = []
  const add = (what: Use['what'], name: string) => {
    if (!uses.some(each => each.what === what && each.name === name)) uses.push({ what, name })
  }
  const model = known ?? reportModel(definition, catalog)
  const hits = (table: string, column?: string) => table === target.table && (!target.column || column === target.column)

  const formula = (
    text: string,
    levels: readonly LevelInfo[],
    level: number,
    what: Use['what'],
    name: string,
    groups?: readonly string[],
  ) => {
    try {
      const typed = checkFormula(text, {
        levels,
        level,
        parameters: model.parameterTypes,
        page: true,
        ...(groups ? { groups, row: 'line' as const } : { measure: true }),
      })
      if (fieldsUsed(typed).some(used => fieldHits(levels[used.level]!, used.path))) add(what, name)
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error
    }
  }
  const tableOf = (level: LevelInfo, record: string): string => {
    let list: readonly RelatedDefinition[] = level.definition.related
    let table = level.definition.table
    for (const name of record ? record.split('.') : []) {
      const found = list.find(each => each.name === name)
      if (!found) return ''
      table = found.table
      list = found.related
    }
    return table
  }
  const fieldHits = (level: LevelInfo, path: string): boolean => {
    const field = level.fields.get(path)
    if (!field) return false
    if (field.total)
      return hits(
        field.total.definition.table,
        target.column
          ? field.total.value && fieldsUsed(field.total.value).some(used => used.path === target.column)
            ? target.column
            : undefined
          : undefined,
      )
    if (field.formula && field.path === target.column && level.definition.table === target.table) return true
    return !field.formula && hits(tableOf(level, field.record), field.column.name)
  }
  const related = (list: readonly RelatedDefinition[], holder: string, at: string) => {
    for (const each of list) {
      const name = at ? `${at}.${each.name}` : each.name
      if (target.column ? each.on.some(pair => hits(each.table, pair.to) || hits(holder, pair.from)) : hits(each.table))
        add('related record', name)
      for (const field of each.fields) if (target.column && hits(each.table, field)) add('field', `${name}.${field}`)
      related(each.related, each.table, name)
    }
  }
  const level = (each: LevelDefinition, levels: readonly LevelInfo[], index: number) => {
    const info = levels[index]!
    if (target.column ? each.on.some(pair => hits(each.table, pair.to)) : hits(each.table)) add('level', info.caption)
    for (const field of each.fields) if (target.column && hits(each.table, field)) add('field', `${each.name}.${field}`)
    related(each.related, each.table, each.name)
    for (const filter of each.filters) formula(filter, levels, index, 'filter', `${info.caption}: ${filter}`)
    for (const sort of each.sort) if (target.column && fieldHits(info, sort.field)) add('sort', `${info.caption}: ${sort.field}`)
    for (const field of each.calculated ?? []) {
      formula(field.formula, levels, index, 'calculated field', `${each.name}.${field.name}`)
      if (target.column === field.name && each.table === target.table) add('calculated field', `${each.name}.${field.name}`)
    }
    for (const ages of each.ageings ?? [])
      for (const part of [ages.amount, ages.asOf, ...ages.dates]) formula(part, levels, index, 'ages', `${each.name}.${ages.name}`)
    for (const total of each.totals ?? []) {
      const own = info.fields.get(total.name)
      if (
        total.table === target.table &&
        (!target.column ||
          total.on.some(pair => pair.to === target.column) ||
          total.by === target.column ||
          total.filters.some(text => speaksOf(text, target.column!)) ||
          (own && fieldHits(info, total.name)))
      )
        add('child total', `${each.name}.${total.name}`)
    }
  }
  definition.dataSets.forEach((_, set) => {
    const { levels } = model.trees[set]!
    levels.forEach(info => level(info.definition, levels, info.index))
  })
  for (const own of definition.tables ?? []) {
    if (own.kind === 'sql' && speaksOf(own.text, target.table) && (!target.column || speaksOf(own.text, target.column)))
      add('SQL text', own.name)
    const table = model.tables.get(`@${own.name}`)
    if (own.kind === 'stack')
      for (const part of own.parts) {
        const set = definition.dataSets.findIndex(each => each.name === part.dataSet)
        for (const [column, text] of Object.entries(part.fields))
          if (set >= 0) formula(text, model.trees[set]!.levels, 0, 'stacked column', `${own.name}.${column}`)
      }
    if (own.kind !== 'summary' || table?.kind !== 'summary') continue
    level(own.base, table.tree.levels, 0)
    for (const column of [...own.by, ...own.measures])
      formula(column.formula, table.tree.levels, 0, 'measure', `${own.name}.${column.name}`)
  }
  for (const parameter of definition.parameters) {
    const { choices } = parameter
    if (
      choices &&
      (target.column
        ? [choices.value, choices.label, ...(choices.narrowedBy ?? []).map(each => each.column)].some(column => hits(choices.table, column))
        : hits(choices.table))
    )
      add('parameter', parameter.label)
  }
  const { levels } = model.trees[0]!
  for (const layout of definition.layouts) {
    const visit = (block: Block, standing: number): void => {
      const named = 'level' in block ? levels.findIndex(each => each.name === block.level) : standing
      const own = Math.max(0, named)
      const { wordings, reads } = kindOf(block)
      const place = `${layout.name}: ${block.id}`
      if (target.column) {
        const { texts, formulas, groups } = wordings(block)
        const inTexts = texts.flatMap(textParts).flatMap(each => ('formula' in each ? [each.formula] : []))
        for (const part of [...inTexts, ...formulas]) formula(part, levels, own, 'layout', place, groups)
        if (reads?.(block).some(path => levels[own]!.fields.has(path) && fieldHits(levels[own]!, path))) add('layout', place)
      }
      // books are read by what is said of the source, not by columns that a level names
      if (reads && bookUses(catalog, target)) add('layout', place)
      for (const inner of blocksInside(block)) visit(inner, own)
    }
    for (const edge of edges) if (layout[edge]) visit(layout[edge], 0)
    for (const block of layout.blocks) visit(block, 0)
  }
  return uses
}

/** Where a report that stands on another source reads a table of this one, or one of its columns. */
export function usesElsewhere({ tables = [] }: ReportDefinition, source: string, { table, column }: UseTarget): Use[] {
  return tables.flatMap((own): Use[] => {
    if (own.kind !== 'elsewhere' || own.source !== source || own.table !== table) return []
    const reads = column === undefined || own.columns.some(each => each.name === column) || own.filters.some(text => speaksOf(text, column))
    return reads ? [{ what: 'table of another source', name: own.name }] : []
  })
}

/** Do the books of the source stand on a table, or on a column of it? */
function bookUses({ ledger }: Catalog, { table, column }: UseTarget): boolean {
  if (!ledger) return false
  const { accounts, lines, journals, budgets, branches, departments } = ledger
  const parts = [accounts, lines, budgets, branches, departments].filter(part => part !== undefined)
  const journal = journals ? [{ table: journals.table, date: ledger.date, closing: ledger.closing, ...ledger.period }] : []
  const texts = (part: object): unknown[] => Object.values(part).flatMap(each => (typeof each === 'object' && each ? texts(each) : [each]))
  return [...parts, ...journal].some(part => part.table === table && (!column || texts(part).includes(column)))
}
