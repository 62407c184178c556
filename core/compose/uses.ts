import { withOpenItems } from '../model/openItems'
import type { Catalog } from '../books/catalog'
import { reportModel } from '../model/model'
import type { LevelInfo } from '../formula/typed'
import { checkFormula } from '../formula/check'
import { fieldsUsed } from '../formula/parts'
import { FormulaError } from '../formula/syntax'
import { textParts } from './text'
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
    | 'parameter'
    | 'layout'
    | 'SQL text'
  name: string
}

/** A table, one of its columns, or a calculated field (by its name on a level of that table). */
export interface UseTarget {
  table: string
  column?: string
}

/** All places of a report that read a table of a source, or one of its columns. */
export function usesOf(report: ReportDefinition, catalog: Catalog, target: UseTarget): Use[] {
  const definition = withOpenItems(report)
  const uses: Use[] = []
  const add = (what: Use['what'], name: string) => {
    if (!uses.some(each => each.what === what && each.name === name)) uses.push({ what, name })
  }
  const model = reportModel(definition, catalog)
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
          total.filters.some(text => new RegExp(`\\b${target.column}\\b`).test(text)) ||
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
    if (
      own.kind === 'sql' &&
      new RegExp(`\\b${target.table}\\b`, 'i').test(own.text) &&
      (!target.column || new RegExp(`\\b${target.column}\\b`, 'i').test(own.text))
    )
      add('SQL text', own.name)
    const table = model.tables.get(`@${own.name}`)
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
  if (target.column) {
    const { levels } = model.trees[0]!
    for (const layout of definition.layouts) {
      const texts = (block: Block, standing: number): void => {
        const own =
          block.kind === 'repeat' || block.kind === 'table'
            ? Math.max(
                0,
                levels.findIndex(each => each.name === block.level),
              )
            : standing
        const { list, rules, groups } = textsOf(block)
        for (const part of [...list.flatMap(textParts).flatMap(each => ('formula' in each ? [each.formula] : [])), ...rules])
          formula(part, levels, own, 'layout', `${layout.name}: ${block.id}`, groups)
        if (block.kind === 'table') for (const row of block.rows) if (row.nested) texts(row.nested, own)
        if (block.kind === 'repeat') block.blocks.forEach(inner => texts(inner, own))
      }
      for (const block of [layout.top, layout.foot, layout.firstTop, layout.firstFoot, ...layout.blocks]) if (block) texts(block, 0)
    }
  }
  return uses
}

/** The texts of a block, its formulas that are not printed, and the groups they may speak of. */
function textsOf(block: Block): { list: string[]; rules: string[]; groups?: string[] } {
  const rules = [block.showWhen ?? '']
  switch (block.kind) {
    case 'panel':
      return {
        list: block.items.flatMap(item => (item.kind === 'text' || item.kind === 'code' ? [item.text] : [])),
        rules: [...rules, ...block.items.flatMap(item => [item.showWhen ?? '', item.kind === 'image' ? (item.from ?? '') : ''])].filter(
          Boolean,
        ),
      }
    case 'repeat':
      return { list: [block.outline ?? ''], rules: [...rules, block.language ?? ''].filter(Boolean) }
    case 'table':
      return {
        list: block.rows.flatMap(row => Object.values(row.cells).map(cell => cell.text)),
        groups: block.groups.map(group => group.id),
        rules: [
          ...rules,
          ...block.rows.flatMap(row => [
            row.when ?? '',
            ...Object.values(row.cells).flatMap(cell => [cell.when ?? '', cell.picture ?? '']),
          ]),
          ...(block.looks ?? []).map(each => each.when),
          ...(block.sort ?? []).map(each => each.field),
          ...block.groups.flatMap(group => [group.by, group.having ?? '', group.order.total ?? '', group.top?.total ?? '']),
        ].filter(Boolean),
      }
    default:
      return { list: [], rules: rules.filter(Boolean) }
  }
}
